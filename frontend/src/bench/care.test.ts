import { describe, expect, it } from "vitest";

import { careEdit, careSwitch, CARE_HINTS, STEP_NAMES } from "./care";
import type { Picture } from "../api/client";
import { groupsOf } from "./stops/trace/groups";

const source = {
  id: "s1",
  asset: "a".repeat(64),
  name: "photo.jpg",
  width: 400,
  height: 300,
  origin: "",
  permission: "unknown",
  care: [{ do: "crop", box: [0, 0, 200, 100] }, { do: "even" }],
} as unknown as Picture;

describe("picture care", () => {
  it("adds a step after those that are there", () => {
    const edit = careEdit(source, { do: "level", start: [0, 0], end: [10, 1] });
    expect(edit).toEqual({
      do: "set-care",
      picture: "s1",
      care: [
        { do: "crop", box: [0, 0, 200, 100] },
        { do: "even" },
        { do: "level", start: [0, 0], end: [10, 1] },
      ],
    });
    expect(source.care).toHaveLength(2);
  });

  it("takes back any step, not only the last", () => {
    expect(careSwitch(source, 0, "off")).toEqual({ do: "switch-care", picture: "s1", at: 0, state: "off" });
  });

  it("begins with a picture that had no care", () => {
    expect(careEdit({ ...source, care: [] }, { do: "even" })).toEqual({
      do: "set-care",
      picture: "s1",
      care: [{ do: "even" }],
    });
  });

  it("has words for every step and every tool", () => {
    for (const words of [...Object.values(STEP_NAMES), ...Object.values(CARE_HINTS)])
      expect(words.length).toBeGreaterThan(4);
  });
});

describe("groups of colours", () => {
  const swatches = [
    { colour: "#ffffff", share: 0.6, background: true, clear: false, bands: ["#e8e8e8"] },
    { colour: "#c82828", share: 0.3, background: false, clear: false, bands: [] },
    { colour: "#000000", share: 0.1, background: false, clear: true, bands: [] },
  ];

  it("are surfaces with their bands while nothing was merged; what is see-through is none", () => {
    expect(groupsOf(null, swatches)).toEqual([["#ffffff", "#e8e8e8"], ["#c82828"]]);
    expect(groupsOf(undefined, swatches)).toEqual([["#ffffff", "#e8e8e8"], ["#c82828"]]);
  });

  it("are the maker's once there are some", () => {
    const palette = [["#ffffff"], ["#c82828", "#28a03c"]];
    const groups = groupsOf(palette, swatches);
    expect(groups).toEqual(palette);
    groups[0]?.push("#123456");
    expect(palette[0]).toEqual(["#ffffff"]);
  });
});
