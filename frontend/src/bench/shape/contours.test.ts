import { describe, expect, it } from "vitest";

import { along, contoursOf, nodePlaces, pathOf, withHandle, withMoved, type Contour } from "./contours";

const SQUARE = "M0 0L10 0L10 10L0 10Z";
const WAVE = "M0 0C2 4 4 4 6 0C8 -4 10 -4 12 0";

const only = (path: string): Contour => {
  const [contour] = contoursOf(path);
  if (!contour) throw new Error("no contour");
  return contour;
};

describe("contours", () => {
  it("reads what it writes", () => {
    for (const path of [SQUARE, WAVE]) expect(contoursOf(pathOf(contoursOf(path)))).toEqual(contoursOf(path));
  });
  it("closes a contour with the line that Z stands for", () => {
    expect(only(SQUARE).segments).toHaveLength(4);
    expect(nodePlaces(only(SQUARE))).toHaveLength(4);
  });
  it("counts the end of an open line as a node", () => {
    expect(nodePlaces(only(WAVE)).at(-1)).toEqual([12, 0]);
  });
  it("keeps holes apart", () => {
    expect(contoursOf(SQUARE + "M2 2L2 4L4 4Z")).toHaveLength(2);
  });
  it("moves nodes with the handles at them, and nothing else", () => {
    const moved = withMoved(only(WAVE), new Set([1]), 1, 2);
    expect(moved.segments[0]?.points).toEqual([
      [0, 0],
      [2, 4],
      [5, 6],
      [7, 2],
    ]);
    expect(moved.segments[1]?.points[1]).toEqual([9, -2]);
    expect(moved.segments[1]?.points[3]).toEqual([12, 0]);
  });
  it("keeps lines straight when their nodes move", () => {
    const moved = withMoved(only(SQUARE), new Set([0]), 3, 0);
    expect(moved.segments.every((s) => s.straight)).toBe(true);
    expect(nodePlaces(moved)[0]).toEqual([3, 0]);
    expect(moved.segments[3]?.points[3]).toEqual([3, 0]);
  });
  it("turns the linked handle across the node", () => {
    const moved = withHandle(only(WAVE), 0, 2, [6, 4], true);
    const across = moved.segments[1]?.points[1] ?? [0, 0];
    expect(across[0]).toBeCloseTo(6);
    expect(across[1]).toBeCloseTo(-Math.hypot(2, 4));
    expect(withHandle(only(WAVE), 0, 2, [6, 4], false).segments[1]?.points[1]).toEqual([8, -4]);
  });
  it("gives points along, ends included", () => {
    const [line] = along(contoursOf(WAVE));
    expect(line?.[0]).toEqual([0, 0]);
    expect(line?.at(-1)).toEqual([12, 0]);
  });
});
