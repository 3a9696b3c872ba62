import { Vector3 } from "three";
import { describe, expect, it } from "vitest";

import { distanceFor, planeOf, snappedTo, wayBetween } from "./probe";

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
  it("is so far off that the nearest side of the solid just fits", () => {
    const front = new Vector3(0, -1, 1e-4).normalize();
    expect(distanceFor(front, [40, 10, 4], [0.5, 0.25])).toBeCloseTo(5 + 40, 1);
    expect(distanceFor(front, [4, 10, 40], [0.5, 0.25])).toBeCloseTo(5 + 80, 1);
  });

  it("shows every corner from aslant", () => {
    const from = new Vector3(-0.42, -0.86, 0.78).normalize();
    const distance = distanceFor(from, [60, 80, 5], [0.2, 0.3]);
    const right = new Vector3(0, 0, 1).cross(from).normalize();
    const across = [-30, 30].flatMap((x) =>
      [-40, 40].map((y) => {
        const corner = new Vector3(x, y, -2.5);
        return Math.abs(corner.dot(right)) / (distance - corner.dot(from));
      }),
    );
    expect(Math.max(...across)).toBeLessThanOrEqual(0.2 + 1e-9);
    expect(Math.max(...across)).toBeGreaterThan(0.18);
  });
});
