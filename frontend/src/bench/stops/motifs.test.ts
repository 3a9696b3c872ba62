import { describe, expect, it } from "vitest";

import { found, type Motif } from "./motifs";

const motifs: Motif[] = [
  { id: "hen", name: "Hen", words: ["bird", "farm"], kind: "silhouette" },
  { id: "duck", name: "Duck", words: ["bird", "pond"], kind: "silhouette" },
  { id: "kettle", name: "Kettle", words: ["kitchen"], kind: "line drawing" },
];
const ids = (typed: string) => found(motifs, typed).map((m) => m.id);

describe("the cabinet's search", () => {
  it("shows everything until something is typed", () => expect(ids(" ")).toHaveLength(3));
  it("finds by the beginning of names and words", () => {
    expect(ids("DU")).toEqual(["duck"]);
    expect(ids("kit")).toEqual(["kettle"]);
    expect(ids("bir")).toEqual(["hen", "duck"]);
  });
  it("wants every word, and knows plurals", () => {
    expect(ids("birds pond")).toEqual(["duck"]);
    expect(ids("line drawing")).toEqual(["kettle"]);
    expect(ids("tractor")).toEqual([]);
  });
});
