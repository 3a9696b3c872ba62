import { describe, expect, it } from "vitest";

import type { Point } from "../flat/place";
import { dragged, enclosing } from "./forms";
import type { ShapeForm } from "./state";

const CORNERS: readonly Point[] = [
  [10, 20],
  [70, 20],
  [70, 50],
  [10, 50],
];

describe("a shape round things", () => {
  const inside: Record<ShapeForm, (x: number, y: number, e: ReturnType<typeof enclosing>) => boolean> = {
    circle: (x, y, e) => Math.hypot(x, y) <= e.width / 2 - 2,
    ring: (x, y, e) => Math.hypot(x, y) <= (e.inner ?? 0) / 2 - 2,
    star: (x, y, e) => Math.hypot(x, y) <= (e.inner ?? 0) / 2 - 2,
    ellipse: (x, y, e) => Math.hypot((2 * x) / e.width, (2 * y) / e.height) <= 1,
    rectangle: (x, y, e) => Math.abs(x) <= e.width / 2 - 2 && Math.abs(y) <= e.height / 2 - 2,
    polygon: (x, y, e) =>
      [0, 1, 2, 3, 4, 5].every((i) => {
        const a = Math.PI / 2 + ((i + 0.5) * Math.PI) / 3;
        return x * Math.cos(a) - y * Math.sin(a) <= (e.width / 2) * Math.cos(Math.PI / 6) - 2;
      }),
  };
  for (const form of Object.keys(inside) as ShapeForm[])
    it(`encloses them wholly with its margin: ${form}`, () => {
      const found = enclosing(form, CORNERS, 2);
      expect(found.at).toEqual([40, 35]);
      for (const [x, y] of CORNERS) expect(inside[form](x - 40, y - 35, found)).toBe(true);
      // And no larger than it must be.
      expect(found.height).toBeLessThan(form === "star" ? 170 : form === "ring" ? 90 : 90);
    });
});

describe("a shape that is dragged out", () => {
  const plain = { middle: false, even: false };
  it("runs from corner to corner", () => {
    expect(dragged("rectangle", [10, 10], [40, 20], plain)).toEqual({ at: [25, 15], width: 30, height: 10 });
    expect(dragged("rectangle", [40, 20], [10, 10], plain)).toEqual({ at: [25, 15], width: 30, height: 10 });
  });
  it("runs from its middle", () => {
    expect(dragged("ellipse", [10, 10], [40, 20], { middle: true, even: false })).toEqual({
      at: [10, 10],
      width: 60,
      height: 20,
    });
  });
  it("is as wide as high when it is round or is to be", () => {
    expect(dragged("circle", [10, 10], [40, 20], plain)).toEqual({ at: [25, 25], width: 30, height: 30 });
    expect(dragged("rectangle", [10, 10], [40, -4], { middle: false, even: true })).toEqual({
      at: [25, -5],
      width: 30,
      height: 30,
    });
  });
});
