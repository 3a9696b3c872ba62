import { describe, expect, it } from "vitest";

import { around, fitted, ticks, zoomed, type Viewport } from "./viewport";

const toScreen = (view: Viewport, x: number, y: number) => [view.x + x * view.scale, view.y + y * view.scale];

describe("the sheet on the screen", () => {
  it.each([
    { x: 0, y: 0, width: 60, height: 40 },
    { x: -20, y: 5, width: 10, height: 300 },
    { x: 100, y: 100, width: 0.5, height: 0.5 },
  ])("shows a box whole, right of and below the rulers", (box) => {
    const view = fitted(box, 800, 600, 22);
    const [left, top] = toScreen(view, box.x, box.y);
    const [right, bottom] = toScreen(view, box.x + box.width, box.y + box.height);
    expect(left).toBeGreaterThanOrEqual(22);
    expect(top).toBeGreaterThanOrEqual(22);
    expect(right).toBeLessThanOrEqual(800);
    expect(bottom).toBeLessThanOrEqual(600);
    expect(((left ?? 0) + (right ?? 0)) / 2).toBeCloseTo(22 + (800 - 22) / 2, 6);
  });

  it("keeps the place under the pointer while it zooms", () => {
    const view = { scale: 4, x: 60, y: 70 };
    const place = [(300 - view.x) / view.scale, (200 - view.y) / view.scale] as const;
    for (const factor of [0.2, 0.9, 1.25, 7]) {
      const [x, y] = toScreen(zoomed(view, factor, 300, 200), ...place);
      expect(x).toBeCloseTo(300, 6);
      expect(y).toBeCloseTo(200, 6);
    }
  });

  it("stops at the largest and the smallest scale", () => {
    const view = { scale: 4, x: 0, y: 0 };
    expect(zoomed(view, 1e9, 0, 0).scale).toBe(zoomed(view, 1e6, 0, 0).scale);
    expect(zoomed(view, 1e-9, 0, 0).scale).toBe(zoomed(view, 1e-6, 0, 0).scale);
  });

  it("puts a box round two", () => {
    expect(around({ x: 0, y: 0, width: 5, height: 5 }, { x: -2, y: 3, width: 4, height: 9 })).toEqual({
      x: -2,
      y: 0,
      width: 7,
      height: 12,
    });
  });

  it.each([0.3, 2, 8, 60, 390])("sets ruler marks apart at %d px a mm", (scale) => {
    const { step, at } = ticks(-40, 120, scale);
    expect(step * scale).toBeGreaterThanOrEqual(56);
    const digits = step / 10 ** Math.floor(Math.log10(step) + 1e-9);
    expect([1, 2, 5, 10]).toContain(Math.round(digits));
    for (const mark of at) {
      expect(mark.value).toBeGreaterThanOrEqual(-40 - 1e-9);
      expect(mark.value).toBeLessThanOrEqual(120 + 1e-9);
      expect(mark.major).toBe(Math.abs(mark.value / step - Math.round(mark.value / step)) < 1e-6);
    }
  });
});
