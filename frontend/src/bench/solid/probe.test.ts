import { describe, expect, it } from "vitest";

import { planeOf, snappedTo, wayBetween } from "./probe";

describe("measuring the solid", () => {
  it("gives the distance and how far it is along each axis", () => {
    expect(wayBetween([1, 1, 0], [4, 5, 12])).toEqual({ distance: 13, across: 3, deep: 4, up: 12 });
  });

  it("takes the nearest corner within reach and else the point", () => {
    const corners = [
      [0, 0, 0],
      [1, 0, 0],
    ] as const;
    expect(snappedTo([0.8, 0.1, 0], corners, 0.5)).toEqual([1, 0, 0]);
    expect(snappedTo([0.5, 3, 0], corners, 0.5)).toEqual([0.5, 3, 0]);
  });
});

describe("a cut along a line", () => {
  const line = { from: [0, 0, 2], to: [10, 0, 2], shift: 0, turned: false } as const;

  it("keeps what lies on the left of the line", () => {
    const plane = planeOf(line);
    expect(plane?.normal[0]).toBeCloseTo(0);
    expect(plane?.normal[1]).toBeCloseTo(1);
  });

  it("moves towards what is kept and turns over", () => {
    expect(planeOf({ ...line, shift: 3 })?.at[1]).toBeCloseTo(3);
    const turned = planeOf({ ...line, shift: 3, turned: true });
    expect(turned?.normal[1]).toBeCloseTo(-1);
    expect(turned?.at[1]).toBeCloseTo(-3);
  });

  it("needs a line of some length", () => {
    expect(planeOf({ ...line, to: [0, 0, 9] })).toBeNull();
  });
});
