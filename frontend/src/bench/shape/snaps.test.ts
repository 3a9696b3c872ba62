import { describe, expect, it } from "vitest";

import { direction, snapped, stepped, turnedTo, type SnapField } from "./snaps";

const FIELD: SnapField = {
  nodes: [[0, 0]],
  centres: [[5, 5]],
  edges: [
    [
      [0, 0],
      [10, 0],
    ],
  ],
  picture: [],
};
const ALL = { nodes: true, edges: true, centres: true, grid: false };

describe("snapping", () => {
  it("takes a node before the edge beside it", () => {
    expect(snapped([0.3, 0.2], FIELD, ALL, 1, 1)).toEqual({ at: [0, 0], kind: "nodes" });
  });
  it("goes to the nearest place of an edge", () => {
    expect(snapped([6, 0.4], FIELD, ALL, 1, 1)).toEqual({ at: [6, 0], kind: "edges" });
  });
  it("leaves alone what is switched off or out of reach", () => {
    expect(snapped([6, 0.4], FIELD, { ...ALL, edges: false }, 1, 1)).toBeNull();
    expect(snapped([6, 3], FIELD, ALL, 1, 1)).toBeNull();
  });
  it("falls to the grid last", () => {
    expect(snapped([6.2, 3.4], FIELD, { ...ALL, grid: true }, 1, 0.5)).toEqual({
      at: [6, 3.5],
      kind: "grid",
    });
  });
});

describe("typed directions", () => {
  it.each([
    ["30", "angle", Math.PI / 6],
    ["30°", "slope", Math.PI / 6],
    ["1/4", "angle", Math.atan2(1, 4)],
    ["1/0", "slope", Math.PI / 2],
    ["4", "slope", Math.atan(4)],
    ["0,5", "slope", Math.atan(0.5)],
    ["25%", "slope", Math.atan(0.25)],
    ["-45", "angle", -Math.PI / 4],
  ] as const)("%s as %s", (text, plain, angle) => expect(direction(text, plain)).toBeCloseTo(angle));
  it.each(["", "abc", "1/", "30 degrees"])("“%s” is none", (text) =>
    expect(direction(text, "angle")).toBeNull(),
  );
});

describe("kept directions", () => {
  it("turns to steps", () => {
    const [x, y] = stepped([0, 0], [10, 1], 15);
    expect([x, y]).toEqual([10, 0]);
  });
  it("stays on a line", () => {
    const [x, y] = turnedTo([1, 1], [5, 9], Math.PI / 2);
    expect(x).toBeCloseTo(1);
    expect(y).toBeCloseTo(9);
  });
});
