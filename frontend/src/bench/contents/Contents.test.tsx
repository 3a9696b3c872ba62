// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { afterEach, beforeAll, describe, expect, it } from "vitest";

import { region, sampleBench } from "../sample";
import { useBench } from "../store";
import { Contents } from "./Contents";

const many = (count: number) => Array.from({ length: count }, (_, i) => region(`r${i}`));

function open(count: number) {
  useBench.getState().close();
  useBench.getState().open(sampleBench(many(count)));
  render(<Contents />);
  return within(screen.getByRole("group", { name: "Regions" }));
}

beforeAll(() => {
  // A page without layout: the contents are 460 px high, rows as high as they say.
  Object.defineProperty(HTMLElement.prototype, "clientHeight", { configurable: true, value: 460 });
  Object.defineProperty(HTMLElement.prototype, "clientWidth", { configurable: true, value: 200 });
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
});
afterEach(cleanup);

describe("the contents", () => {
  it("says that there is nothing yet", () => {
    open(0);
    expect(screen.getByText("No picture yet.")).toBeTruthy();
  });

  it("lists every region of a small piece and picks by a click, more with Shift", () => {
    const rows = open(3).getAllByRole("listitem");
    expect(rows).toHaveLength(3);
    const [first, second] = rows.map((row) => within(row).getByRole("button"));
    if (!first || !second) throw new Error("There are no rows.");
    fireEvent.click(first);
    fireEvent.click(second, { shiftKey: true });
    expect(useBench.getState().picked).toEqual(["r0", "r1"]);
  });

  it("draws only what is in view of a long list, and tells how long it is", () => {
    const rows = open(5000).getAllByRole("listitem");
    expect(rows.length).toBeLessThan(60);
    expect(rows[0]?.getAttribute("aria-setsize")).toBe("5000");
    expect(rows[0]?.getAttribute("aria-posinset")).toBe("1");
  });
});
