import { expect, test } from "vitest";

import type { Edit, Flat } from "../../api/client";
import { lift, movesAlone, risesTo, sameRises, type Rising } from "./lift";
import { flatNormals } from "./normals";

/** A top of region "a" at 1, and the wall from region "b" at 3 down to it, along the y axis. */
const TOP = [0, 0, 1, 2, 0, 1, 0, 2, 1];
const WALL = [2, 2, 1, 2, 0, 1, 2, 0, 3, 2, 2, 1, 2, 0, 3, 2, 2, 3];
const rising: Rising = {
  regions: ["base", "a", "b"],
  heights: { a: 1, b: 3 },
  rising: [0, 1, 1, 1, 1, 2, 1, 2],
  standing: 3,
};
const points = new Float32Array([...TOP, ...WALL]);
const still = { points, normals: flatNormals(points) };

const lifted = (rises: Map<string, number>) => {
  const into = { points: points.slice(), normals: still.normals.slice() };
  lift(into, still, rising, rises);
  return into;
};
const heights = (all: Float32Array) => [...all].filter((_, i) => i % 3 === 2);
const region = (id: string, height: number | "through") => ({ id, height }) as Flat["regions"][number];
const flat = (...regions: Flat["regions"]) => ({ regions }) as Flat;
const raise = (id: string, height: number | "through"): Edit =>
  ({ do: "set-regions", picked: [{ id }], height }) as Edit;

test("a region's top goes up, and the feet of the walls that stand on it", () => {
  const moved = lifted(new Map([["a", 0.5]]));
  expect(heights(moved.points)).toEqual([1.5, 1.5, 1.5, 1.5, 1.5, 3, 1.5, 3, 3]);
  expect(moved.normals).toEqual(still.normals);
  expect(heights(still.points)).toEqual([1, 1, 1, 1, 1, 3, 1, 3, 3]);
});

test("a wall whose foot comes over its head faces the other way", () => {
  const moved = lifted(new Map([["a", 4]]));
  const wall = moved.points.subarray(9);
  expect(flatNormals(wall)).toEqual(moved.normals.subarray(12));
  expect([...moved.normals.subarray(12, 15)]).toEqual([...still.normals.subarray(12, 15)].map((n) => 0 - n));
});

test("what a draft or an edit asks for is the difference to what stands", () => {
  const state = flat(region("a", 1), region("b", 3));
  expect(risesTo(rising, state, [null])).toBeNull();
  expect(risesTo(rising, state, [raise("a", 2.5)])).toEqual(new Map([["a", 1.5]]));
  expect(risesTo(rising, flat(region("a", 1.2), region("b", 2)), [null])?.get("b")).toBe(-1);
});

test("what is sunk, cut through or unknown waits for the next solid", () => {
  const state = flat(region("a", 1), region("b", 3), region("new", 2));
  for (const height of [0, -1, "through"] as const)
    expect(risesTo(rising, state, [raise("a", height)])).toBeNull();
  expect(risesTo(rising, state, [raise("new", 5)])).toBeNull();
  expect(risesTo(rising, null, [raise("a", 5)])).toBeNull();
});

test("only another height of what is raised can be shown without a new solid", () => {
  expect(movesAlone(rising, raise("a", 2))).toBe(true);
  for (const height of [0, -1, "through"] as const)
    expect(movesAlone(rising, raise("a", height))).toBe(false);
  expect(movesAlone(rising, raise("new", 2))).toBe(false);
  expect(movesAlone(rising, { ...raise("a", 2), filament: "f1" } as Edit)).toBe(false);
  expect(movesAlone(rising, null)).toBe(false);
});

test("walls of no height are drawn only where one of their regions leaves the other", () => {
  const level = new Float32Array([...TOP, 2, 2, 1, 2, 0, 1, 2, 0, 1, 2, 2, 1, 2, 0, 1, 2, 2, 1]);
  const rows: Rising = { ...rising, heights: { a: 1, b: 1 }, standing: 1 };
  const corners = { points: level, normals: flatNormals(level) };
  const drawn = (rises: [string, number][]) => {
    const into = { points: level.slice(), normals: corners.normals.slice() };
    return lift(into, corners, rows, new Map(rises));
  };
  expect(drawn([["a", 1]])).toBe(3);
  expect(
    drawn([
      ["a", 1],
      ["b", 1],
    ]),
  ).toBe(1);
});

test("ways of moving are the same when every region goes as far", () => {
  expect(sameRises(new Map([["a", 1]]), new Map([["a", 1.00001]]))).toBe(true);
  expect(sameRises(new Map([["a", 1]]), new Map([["b", 1]]))).toBe(false);
  expect(sameRises(null, null)).toBe(true);
  expect(sameRises(null, new Map([["a", 1]]))).toBe(false);
});
