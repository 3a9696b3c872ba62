import { expect, test } from "vitest";
import { colourOf } from "./Palettes";

test("colours are read as they are written, with or without their sign, long or short", () => {
  expect(colourOf("#C8553D")).toBe("#c8553d");
  expect(colourOf(" c8553d ")).toBe("#c8553d");
  expect(colourOf("#0af")).toBe("#00aaff");
});

test.each(["", "#", "red", "#12345", "#1234567", "c8553g"])("%s is no colour", (text) => {
  expect(colourOf(text)).toBeNull();
});
