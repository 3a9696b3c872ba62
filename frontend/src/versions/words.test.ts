import { describe, expect, it } from "vitest";

import { dayOf, inWords, lineInWords, type Told } from "./words";

const told = (change: Partial<Told>): Told => ({
  path: "regions.height",
  what: "Beet",
  how: "set",
  before: 1.2,
  after: 1.6,
  unit: "mm",
  count: 1,
  ...change,
});

describe("a change in words", () => {
  it("says from what to what, the unit once, in the maker's units", () => {
    expect(inWords(told({}), "mm")).toBe("Beet 1.2 → 1.6 mm");
    expect(inWords(told({ before: 25.4, after: 50.8 }), "inch")).toBe("Beet 1 → 2 in");
    expect(inWords(told({ before: null }), "mm")).toBe("Beet auto → 1.6 mm");
    expect(inWords(told({ before: 0.2, after: 0.25, unit: "share", what: "Infill" }), "mm")).toBe(
      "Infill 20 % → 25 %",
    );
    expect(inWords(told({ before: 8, after: 12, unit: "°", what: "Stamp draft" }), "mm")).toBe(
      "Stamp draft 8° → 12°",
    );
  });

  it("says of a switch which way it is", () => {
    expect(inWords(told({ what: "Face down", before: false, after: true, unit: "" }), "mm")).toBe(
      "Face down: on",
    );
  });

  it("says of what is left out, hidden or locked just that", () => {
    const out = {
      path: "regions.left_out",
      what: "Core left out",
      before: false,
      after: true,
      unit: "",
    } as const;
    expect(inWords(told(out), "mm")).toBe("Core left out");
    expect(inWords(told({ ...out, before: true, after: false }), "mm")).toBe("Core brought back");
  });

  it("says what came, went and was done", () => {
    expect(inWords(told({ what: "Circle", how: "added" }), "mm")).toBe("Circle added");
    expect(inWords(told({ what: "Shapes united", how: "done" }), "mm")).toBe("Shapes united");
    expect(inWords(told({ what: "Went back to", path: "back", before: null, after: "Sent" }), "mm")).toBe(
      "Went back to Sent",
    );
  });

  it("counts what else there was", () => {
    expect(lineInWords([told({}), told({ what: "Leaf" })], 3, "mm")).toBe("Beet 1.2 → 1.6 mm, and 4 more");
    expect(lineInWords([told({ how: "done", what: "Parts tied" }), told({})], 0, "mm")).toBe("Parts tied");
  });
});

describe("a day", () => {
  const now = new Date(2026, 2, 3, 12);
  it("is told as one says it", () => {
    expect(dayOf(new Date(2026, 2, 3, 1).toISOString(), now)).toBe("Today");
    expect(dayOf(new Date(2026, 2, 2, 23).toISOString(), now)).toBe("Yesterday");
    expect(dayOf(new Date(2026, 1, 20).toISOString(), now)).toBe("Friday 20 February");
    expect(dayOf(new Date(2025, 1, 20).toISOString(), now)).toBe("Thursday 20 February 2025");
  });
});
