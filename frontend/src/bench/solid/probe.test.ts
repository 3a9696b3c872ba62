import { Vector3 } from "three";
import { describe, expect, it } from "vitest";

import { framed, planeOf, snappedTo, wayBetween } from "./probe";

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

describe("a standard view", () => {
  const box = (w: number, d: number, h: number) =>
    [0, w].flatMap((x) => [0, d].flatMap((y) => [0, h].flatMap((z) => [x, y, z])));

  it("is so far off that the nearest side of the solid just fits", () => {
    const front = new Vector3(0, -1, 1e-4).normalize();
    expect(framed(front, box(40, 10, 4), [20, 5, 2], [0.5, 0.25]).distance).toBeCloseTo(5 + 40, 1);
    expect(framed(front, box(4, 10, 40), [2, 5, 20], [0.5, 0.25]).distance).toBeCloseTo(5 + 80, 1);
  });

  it("shows every point from aslant, with as much room on the left as on the right", () => {
    const from = new Vector3(-0.42, -0.86, 0.78).normalize();
    const points = box(60, 80, 5);
    const seen = framed(from, points, [0, 0, 0], [0.2, 0.3]);
    const right = new Vector3(0, 0, 1).cross(from).normalize();
    const up = from.clone().cross(right);
    const target = right.clone().multiplyScalar(seen.right).addScaledVector(up, seen.up);
    const across: number[] = [];
    const high: number[] = [];
    for (let i = 0; i < points.length; i += 3) {
      const at = new Vector3(...points.slice(i, i + 3)).sub(target);
      across.push(at.dot(right) / (seen.distance - at.dot(from)));
      high.push(at.dot(up) / (seen.distance - at.dot(from)));
    }
    expect(Math.max(...across)).toBeCloseTo(0.2, 6);
    expect(Math.min(...across)).toBeCloseTo(-0.2, 6);
    expect(Math.max(...high)).toBeLessThanOrEqual(0.3);
    expect(Math.min(...high)).toBeGreaterThanOrEqual(-0.3);
  });
});
