import { describe, expect, it } from "vitest";

import { isCorner, nodesOf } from "./nodes";

describe("nodes of an outline", () => {
  it("finds the corners of a square that is closed by its last side", () => {
    const nodes = nodesOf("M0 0L10 0L10 10L0 10Z");
    expect(nodes.map((n) => [n.x, n.y])).toEqual([
      [0, 0],
      [10, 0],
      [10, 10],
      [0, 10],
    ]);
    expect(nodes.every(isCorner)).toBe(true);
  });

  it("tells smooth nodes by the directions of their handles", () => {
    const nodes = nodesOf("M0 5C0 8 2 10 5 10C8 10 10 8 10 5C10 2 8 0 5 0C2 0 0 2 0 5Z");
    expect(nodes).toHaveLength(4);
    expect(nodes.some(isCorner)).toBe(false);
    expect(nodes[1]?.out).toEqual([1, 0]);
  });

  it("takes holes as runs of their own", () => {
    expect(nodesOf("M0 0L9 0L9 9ZM1 1L2 1L2 2Z")).toHaveLength(6);
  });
});
