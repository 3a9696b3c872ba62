import { describe, expect, it } from "vitest";

import type { Underlay } from "../../api/client";
import { inPicture, onScreen, thinned, fromScreen } from "./place";

const view = { scale: 3, x: 40, y: 25 };
const underlay = { at: [10, -4], mm_per_px: 0.5, turn: 90 } as unknown as Underlay;

describe("places", () => {
  it("go from the screen to the sheet and back", () => {
    const there = fromScreen([100, 70], view);
    expect(there).toEqual([20, 15]);
    expect(onScreen(there, view)).toEqual([100, 70]);
  });

  it("are told in px of a picture that lies turned on the sheet", () => {
    // 90 degrees clockwise on the screen: the picture's x runs down the sheet.
    const [x, y] = inPicture([10, 6], underlay);
    expect(x).toBeCloseTo(20, 9);
    expect(y).toBeCloseTo(0, 9);
  });

  it("of a line drawn by hand are thinned", () => {
    const line = [0, 1, 2, 3, 4, 5].map((x) => [x, 0] as const);
    expect(thinned(line, 2)).toEqual([
      [0, 0],
      [2, 0],
      [4, 0],
    ]);
  });
});
