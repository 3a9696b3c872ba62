// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { NumberField, PLAIN, SwitchField, TextField } from "./fields";
import { formatLength, parseLength } from "./length";

afterEach(cleanup);

const number = (props: Partial<Parameters<typeof NumberField>[0]> = {}) => {
  const commit = vi.fn();
  render(
    <NumberField
      label="Height"
      value={2}
      notation={{
        parse: (text) => parseLength(text, "mm"),
        format: (mm) => formatLength(mm, "mm"),
        unit: "mm",
      }}
      min={0.2}
      max={50}
      step={0.2}
      onCommit={commit}
      {...props}
    />,
  );
  return { commit, field: screen.getByRole("textbox", { name: "Height" }) as HTMLInputElement };
};

const type = (field: HTMLElement, text: string) => fireEvent.change(field, { target: { value: text } });

describe("a number field", () => {
  it("takes what is typed on Enter, in any unit", () => {
    const { commit, field } = number();
    type(field, "1/4in");
    expect(commit).not.toHaveBeenCalled();
    fireEvent.keyDown(field, { key: "Enter" });
    expect(commit).toHaveBeenCalledWith(6.35);
  });

  it("takes it when it is left, and what lies out of range as the nearest", () => {
    const { commit, field } = number();
    type(field, "9000");
    fireEvent.blur(field);
    expect(commit).toHaveBeenCalledWith(50);
  });

  it("gives up on Escape", () => {
    const { commit, field } = number();
    type(field, "9");
    fireEvent.keyDown(field, { key: "Escape" });
    fireEvent.blur(field);
    expect(commit).not.toHaveBeenCalled();
    expect(field.value).toBe("2");
  });

  it("steps by the arrows, with Shift tenfold, from what is typed", () => {
    const { commit, field } = number();
    fireEvent.keyDown(field, { key: "ArrowUp" });
    expect(commit.mock.lastCall?.[0]).toBeCloseTo(2.2);
    fireEvent.keyDown(field, { key: "ArrowDown", shiftKey: true });
    expect(commit.mock.lastCall?.[0]).toBeCloseTo(0.2);
    type(field, "10");
    fireEvent.keyDown(field, { key: "ArrowUp" });
    expect(commit.mock.lastCall?.[0]).toBeCloseTo(10.2);
  });

  it("tells what is wrong with the field itself and keeps what was typed", () => {
    const { commit, field } = number();
    type(field, "twelve");
    fireEvent.keyDown(field, { key: "Enter" });
    expect(commit).not.toHaveBeenCalled();
    expect(field.value).toBe("twelve");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    const why = document.getElementById(field.getAttribute("aria-describedby") ?? "");
    expect(why?.textContent).toContain("Type a number");
  });

  it("is described by a refusal of its value", () => {
    const { field } = number({ problem: "The walls are thinner than a line." });
    const why = document.getElementById(field.getAttribute("aria-describedby") ?? "");
    expect(why?.textContent).toBe("The walls are thinner than a line.");
  });

  it("asks for no change that is none", () => {
    const { commit, field } = number({ notation: PLAIN, value: 3 });
    type(field, "3.0");
    fireEvent.blur(field);
    expect(commit).not.toHaveBeenCalled();
  });
});

describe("a line of text", () => {
  it("takes what is typed without what stands round it, once", () => {
    const commit = vi.fn();
    render(<TextField label="Text" value="Fern" maxLength={20} onCommit={commit} />);
    const field = screen.getByRole("textbox", { name: "Text" });
    type(field, " Moss ");
    fireEvent.keyDown(field, { key: "Enter" });
    fireEvent.blur(field);
    expect(commit.mock.calls).toEqual([["Moss"]]);
  });
});

describe("a switch", () => {
  it("has a name and tells which way it goes", () => {
    const change = vi.fn();
    render(<SwitchField label="Brim" checked={false} onChange={change} />);
    fireEvent.click(screen.getByRole("switch", { name: "Brim" }));
    expect(change).toHaveBeenCalledWith(true);
  });
});
