import { expect, test } from "vitest";

import { matches } from "./chord";
import { KEYS } from "./table";

const pressed = (key: string, held: Partial<KeyboardEvent> = {}) => ({
  key,
  code: "",
  ctrlKey: false,
  metaKey: false,
  altKey: false,
  shiftKey: false,
  ...held,
});

test("a chord is its key with just its modifiers", () => {
  expect(matches(pressed("z", { ctrlKey: true }), "Mod+z")).toBe(true);
  expect(matches(pressed("z", { metaKey: true }), "Mod+z")).toBe(true);
  expect(matches(pressed("Z", { ctrlKey: true, shiftKey: true }), "Mod+z")).toBe(false);
  expect(matches(pressed("Z", { ctrlKey: true, shiftKey: true }), "Mod+Shift+z")).toBe(true);
  expect(matches(pressed("z"), "Mod+z")).toBe(false);
  expect(matches(pressed("v", { ctrlKey: true }), "v")).toBe(false);
  expect(matches(pressed("v", { altKey: true }), "v")).toBe(false);
});

test("signs come as the keyboard has them", () => {
  expect(matches(pressed("?", { shiftKey: true }), "?")).toBe(true);
  expect(matches(pressed("+", { shiftKey: true }), "+")).toBe(true);
  expect(matches(pressed("+"), "+")).toBe(true);
  expect(matches(pressed("+", { ctrlKey: true }), "+")).toBe(false);
});

test("with Alt a digit is told by its place", () => {
  expect(matches(pressed("¡", { altKey: true, code: "Digit1" }), "Alt+1")).toBe(true);
  expect(matches(pressed("1", { code: "Digit1" }), "Alt+1")).toBe(false);
});

test("Shift? is with or without", () => {
  for (const shiftKey of [true, false])
    expect(matches(pressed("ArrowUp", { shiftKey }), "Shift?+ArrowUp")).toBe(true);
  expect(matches(pressed("ArrowUp", { altKey: true }), "Shift?+ArrowUp")).toBe(false);
});

test("every row of the list says what it does", () => {
  for (const row of Object.values(KEYS)) {
    expect(row.keys).not.toBe("");
    expect(row.does).not.toBe("");
    expect(row.chords.length).toBeGreaterThan(0);
  }
});
