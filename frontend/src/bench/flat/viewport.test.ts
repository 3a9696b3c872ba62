import { describe, expect, it } from "vitest";

import { around, fitted, ticks, zoomed } from "./viewport";

describe("the sheet on the screen", () => {
  it("is fitted whole, in the middle right of the ruler", () => {
    const view = fitted({ x: -5, y: -5, width: 60, height: 30 }, 700, 500, 20);
    const left = view.x - 5 * view.scale;
    const right = view.x + 55 * view.scale;
    expect(left - 20).toBeCloseTo(700 - right, 6);
    expect(left).toBeGreaterThanOrEqual(20);
  });
  it("keeps the point under the pointer when it is zoomed", () => {
    const before = { scale: 3, x: 40, y: 60 };
    const after = zoomed(before, 1.7, 333, 222);
    expect((333 - after.x) / after.scale).toBeCloseTo((333 - before.x) / before.scale, 9);
    expect((222 - after.y) / after.scale).toBeCloseTo((222 - before.y) / before.scale, 9);
  });
  it("has ruler steps of one, two or five", () => {
    for (const scale of [0.1, 0.7, 3, 11, 90]) {
      const { step } = ticks(-100, 100, scale);
      const lead = step / 10 ** Math.floor(Math.log10(step) + 1e-9);
      expect([1, 2, 5, 10].some((n) => Math.abs(lead - n) < 1e-6)).toBe(true);
      expect(step * scale).toBeGreaterThanOrEqual(56);
    }
  });
  it("encloses two boxes", () => {
    expect(around({ x: 0, y: 0, width: 4, height: 4 }, { x: -2, y: 3, width: 3, height: 5 })).toEqual({
      x: -2,
      y: 0,
      width: 6,
      height: 8,
    });
  });
});
