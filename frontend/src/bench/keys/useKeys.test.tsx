// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { useKeys, type Handlers, type Level } from "./useKeys";

afterEach(cleanup);

function Layer({ level, handlers, on = true }: { level: Level; handlers: Handlers; on?: boolean }) {
  useKeys(level, handlers, on);
  return null;
}

const press = (key: string, held: KeyboardEventInit = {}, target: Element = document.body) =>
  fireEvent.keyDown(target, { key, ...held });

describe("keys", () => {
  it("go to the innermost that has a use for them, whoever came first", () => {
    const tool = vi.fn();
    const bench = vi.fn();
    render(
      <>
        <Layer level="tool" handlers={{ "put-down": tool }} />
        <Layer level="bench" handlers={{ "put-down": bench }} />
      </>,
    );
    press("Escape");
    expect([tool.mock.calls.length, bench.mock.calls.length]).toEqual([1, 0]);
  });

  it("go on to the next where the first has no use for them", () => {
    const bench = vi.fn();
    render(
      <>
        <Layer level="tool" handlers={{ "take-back": () => false }} />
        <Layer level="bench" handlers={{ "take-back": bench }} />
      </>,
    );
    press("Backspace");
    expect(bench).toHaveBeenCalledOnce();
  });

  it("are left to a field that takes letters, but for undo", () => {
    const swap = vi.fn();
    const undo = vi.fn();
    render(
      <>
        <input aria-label="Text" />
        <input aria-label="Draft" data-draft />
        <Layer level="bench" handlers={{ "swap-views": swap, undo }} />
      </>,
    );
    const [text, draft] = [screen.getByLabelText("Text"), screen.getByLabelText("Draft")];
    press("v", {}, text);
    expect(swap).not.toHaveBeenCalled();
    press("z", { ctrlKey: true }, text);
    expect(undo).toHaveBeenCalledOnce();
    // Letters that are not kept yet are taken back by the field itself.
    press("z", { ctrlKey: true }, draft);
    expect(undo).toHaveBeenCalledOnce();
  });

  it("press the button that has the focus, and step the slider", () => {
    const close = vi.fn();
    const nudge = vi.fn();
    render(
      <>
        <button type="button">Go</button>
        <div role="slider" aria-valuenow={1} tabIndex={0} />
        <Layer level="tool" handlers={{ "close-line": close, nudge }} />
      </>,
    );
    press("Enter", {}, screen.getByRole("button"));
    press("ArrowUp", {}, screen.getByRole("slider"));
    expect([close.mock.calls.length, nudge.mock.calls.length]).toEqual([0, 0]);
    press("Enter");
    press("ArrowUp");
    expect([close.mock.calls.length, nudge.mock.calls.length]).toEqual([1, 1]);
  });

  it("are the crosshair's before any control's, while it is out", () => {
    const click = vi.fn();
    const { rerender } = render(
      <>
        <button type="button">Go</button>
        <Layer level="crosshair" handlers={{ "crosshair-click": click }} />
      </>,
    );
    press("Enter", {}, screen.getByRole("button"));
    expect(click).toHaveBeenCalledOnce();
    rerender(
      <>
        <button type="button">Go</button>
        <Layer level="crosshair" handlers={{ "crosshair-click": click }} on={false} />
      </>,
    );
    press("Enter", {}, screen.getByRole("button"));
    expect(click).toHaveBeenCalledOnce();
  });

  it("do nothing behind an open window", () => {
    const swap = vi.fn();
    render(
      <>
        <div role="dialog">
          <button type="button">Close</button>
        </div>
        <Layer level="bench" handlers={{ "swap-views": swap }} />
      </>,
    );
    press("v", {}, screen.getByRole("button"));
    expect(swap).not.toHaveBeenCalled();
  });
});
