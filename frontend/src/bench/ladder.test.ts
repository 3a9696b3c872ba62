import { describe, expect, it } from "vitest";

import type { Region } from "../api/client";
import { apart, bands, grouped } from "./Ladder";

const region = (id: string, height: Region["height"], filament: string, left_out = false) =>
  ({ id, height, filament, left_out }) as Region;

describe("the ladder", () => {
  it("puts like regions together, the highest first, and leaves out what has no height", () => {
    const groups = grouped([
      region("a", 1, "moss"),
      region("b", 2, "cream"),
      region("c", 1, "moss"),
      region("d", 1, "cream"),
      region("e", "through", "cream"),
      region("f", 3, "cream", true),
    ]);
    expect(groups.map((g) => g.regions.map((r) => r.id))).toEqual([["b"], ["a", "c"], ["d"]]);
  });
  it("tells which filament ends where", () => {
    const groups = grouped([region("a", 1, "moss"), region("b", 2.4, "cream"), region("c", -0.5, "night")]);
    expect(bands(groups, 2)).toEqual([
      { low: 2, high: 3, filament: "moss" },
      { low: 3, high: 4.4, filament: "cream" },
    ]);
  });
  it("keeps tags readable", () => {
    const placed = apart([{ y: 100 }, { y: 101 }, { y: 300 }]).map((t) => t.y);
    expect(placed).toEqual([100, 122, 300]);
  });
});
