import { describe, expect, it } from "vitest";

import type { Document, Flat } from "../../api/client";
import {
  boxOf,
  idsOf,
  itemsOf,
  likeThis,
  namesOf,
  pickedItems,
  titleOf,
  withGroup,
  type Thing,
} from "./objects";

const region = (id: string, drawn: string | null, box: number[], area = 10, left_out = false) => ({
  id,
  drawn,
  box,
  area,
  left_out,
  path: "M0 0L1 0L1 1Z",
  nodes: 3,
  colour: null,
  name: id,
});
const shown = (id: string, box: number[], open = 0) => ({ id, box, open, path: "M0 0L1 0L1 1Z", nodes: 3 });
const thing = (id: string, more: object = {}) =>
  ({ kind: "path", id, path: "M0 0L1 1", ...more }) as unknown as Thing;

const flat = {
  regions: [
    region("border-0", "border", [-2, -2, 14, 14]),
    region("t1", null, [0, 0, 10, 10]),
    region("t2", null, [0, 0, 1, 1], 1, true),
    region("w-0", "w", [20, 0, 5, 8], 6),
    region("w-1", "w", [26, 0, 5, 8], 6),
  ],
  things: [
    shown("border", [-2, -2, 14, 14]),
    shown("w", [20, 0, 11, 8]),
    shown("l", [0, 20, 30, 0], 1),
    shown("h", [0, 0, 3, 3]),
  ],
} as unknown as Flat;
const document = {
  drawn: [
    thing("border", { beneath: true, name: "Border" }),
    thing("w", { kind: "lettering", text: "Bo\nLi", group: "g" }),
    thing("l", { kind: "line", group: "g" }),
    thing("h", { hidden: true }),
  ],
} as unknown as Document;

describe("what can be picked", () => {
  const items = itemsOf(flat, document);
  const item = (id: string) => {
    const found = items.find((i) => i.id === id);
    if (!found) throw new Error(id);
    return found;
  };
  it("lists things and traced regions from beneath, without what is hidden or left out", () => {
    expect(idsOf(items)).toEqual(["border", "t1", "w", "l"]);
  });
  it("takes a lettering with all its letters as one", () => {
    expect(item("w").area).toBe(12);
    expect(namesOf(item("w"))).toEqual(["w-0", "w-1"]);
    expect(namesOf(item("l"))).toEqual(["l"]);
  });
  it("finds what is picked by its own name or by a region's", () => {
    expect(idsOf(pickedItems(items, ["w-1"]))).toEqual(["w"]);
    expect(idsOf(pickedItems(items, ["l", "t1"]))).toEqual(["t1", "l"]);
    expect(pickedItems(items, [])).toEqual([]);
  });
  it("goes by groups", () => {
    expect(idsOf(withGroup(items, item("w")))).toEqual(["w", "l"]);
    expect(idsOf(withGroup(items, item("t1")))).toEqual(["t1"]);
  });
  it("finds what is alike by size and colour", () => {
    const more = [...items, { ...item("t1"), id: "t9", box: [50, 50, 10.5, 10.4] as const }];
    expect(idsOf(likeThis(more, item("t1")))).toEqual(["t1", "t9"]);
  });
  it("boxes several", () => {
    expect(boxOf([item("t1"), item("w")])).toEqual({ x: 0, y: 0, width: 31, height: 10 });
    expect(boxOf([])).toBeNull();
  });
  it("names things by their name, their words, or what they are", () => {
    expect(document.drawn.map(titleOf)).toEqual(["Border", "“Bo”", "Line", "Outline"]);
    expect(titleOf(thing("c", { kind: "shape", form: "ring" }))).toBe("Ring");
  });
});
