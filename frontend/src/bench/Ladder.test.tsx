// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";

import type { Edit } from "../api/client";
import { Ladder } from "./Ladder";
import { region, sampleBench } from "./sample";
import { useBench } from "./store";

const made: Edit[] = [];

beforeAll(() => {
  // A page without layout: the ladder is 500 px high.
  Object.defineProperty(HTMLElement.prototype, "clientHeight", { configurable: true, value: 500 });
});
beforeEach(() => {
  made.length = 0;
  useBench
    .getState()
    .open(sampleBench([region("a", { height: 1 }), region("b", { height: 1 }), region("c", { height: 3 })]));
  useBench.setState({ commit: vi.fn((edit) => void made.push(edit as Edit)) });
  render(<Ladder />);
});
afterEach(cleanup);

describe("the ladder on the screen", () => {
  it("has one handle for all regions of one height and filament, told in words", () => {
    const handles = screen.getAllByRole("slider");
    expect(handles.map((h) => h.getAttribute("aria-label"))).toEqual([
      "Height of Region c",
      "Height of 2 regions",
    ]);
    expect(handles.map((h) => h.getAttribute("aria-valuetext"))).toEqual(["3 mm", "1 mm"]);
  });

  it("moves a group by one layer for a key, by ten with Shift", () => {
    const both = screen.getByRole("slider", { name: "Height of 2 regions" });
    fireEvent.keyDown(both, { key: "ArrowUp" });
    fireEvent.keyDown(both, { key: "ArrowUp", shiftKey: true });
    expect(made.map((edit) => (edit as { height?: number }).height)).toEqual([1.2, 3]);
    expect((made[0] as { picked?: { id: string }[] }).picked?.map((p) => p.id)).toEqual(["a", "b"]);
  });

  it("never sinks below the first layer of the base", () => {
    const one = screen.getByRole("slider", { name: "Height of Region c" });
    for (let i = 0; i < 5; i++) fireEvent.keyDown(one, { key: "ArrowDown", shiftKey: true });
    for (const edit of made) expect((edit as { height: number }).height).toBeGreaterThanOrEqual(-1.8);
  });
});
