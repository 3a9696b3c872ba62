import { describe, expect, it } from "vitest";

import type { Flat } from "../../api/client";
import { aligned, extentOf, onPicture, onScreen, thinned } from "./place";

const flat = { mm_per_px: 0.5, origin: [-10, 4] } as unknown as Flat;
const view = { scale: 8, x: 30, y: 20 };

describe("places on the picture", () => {
  it("go to the screen and back", () => {
    expect(onScreen([0, 0], flat, view)).toEqual([-50, 52]);
    expect(onPicture(onScreen([17, 23], flat, view), flat, view)).toEqual([17, 23]);
  });

  it("lay one flat view of a picture on another", () => {
    const other = { mm_per_px: 1, origin: [0, 0] } as unknown as Flat;
    // A pixel at 20, 20 lies at 0, 14 on the first sheet and at 20, 20 on the other.
    expect(aligned(flat, other)).toBe("translate(20 -8) scale(2)");
  });

  it("thin out a line drawn by hand", () => {
    expect(thinned([[0, 0], [1, 0], [2, 0], [9, 0]], 2)).toEqual([[0, 0], [2, 0], [9, 0]]); // prettier-ignore
    expect(thinned([], 2)).toEqual([]);
  });
});

describe("what is built", () => {
  const art = { left: 0, top: 0, width: 40, height: 30 };
  const sized = (more: object) =>
    extentOf({ ...art, base_box: null, overhang_path: "", ...more } as unknown as Flat);

  it("is as large as its base, or as the art without one", () => {
    expect(sized({})).toEqual([40, 30]);
    expect(sized({ base_box: [-3, -3, 46, 36] })).toEqual([46, 36]);
  });

  it("reaches as far as the art that stands out over the base", () => {
    expect(sized({ base_box: [10, -5, 20, 40], overhang_path: "M0 0" })).toEqual([40, 40]);
    expect(sized({ base_box: [10, 10, 60, 10], overhang_path: "M0 0" })).toEqual([70, 30]);
  });

  it("does not count art that is cut off at the base", () => {
    expect(sized({ base_box: [10, 5, 20, 20] })).toEqual([20, 20]);
  });
});
