import { describe, expect, it } from "vitest";

import { formatLength, parseLength, parseNumber, parsePoint, trimmed, inUnits } from "./length";

describe("typed lengths", () => {
  it.each([
    ["12", "mm", 12],
    ["12mm", "inch", 12],
    ["0.5in", "mm", 12.7],
    ["1/4in", "mm", 6.35],
    ['1/4"', "mm", 6.35],
    ["80/3", "mm", 80 / 3],
    ["2,5", "mm", 2.5],
    ["1.5 cm", "mm", 15],
    ["2", "inch", 50.8],
    [" -3 ", "mm", -3],
  ] as const)("%s in %s", (text, units, mm) => {
    expect(parseLength(text, units)).toBeCloseTo(mm, 9);
  });
  it.each(["", "wide", "1/0", "1/", "--2", "3 furlongs", "1e5"])("%s is none", (text) => {
    expect(parseLength(text, "mm")).toBeNull();
  });
  it("are written without needless zeros", () => {
    expect(formatLength(12, "mm")).toBe("12");
    expect(formatLength(12.345, "mm")).toBe("12.35");
    expect(formatLength(12.7, "inch")).toBe("0.5");
    expect(trimmed(-0.0001, 2)).toBe("0");
    expect(trimmed(100, 0)).toBe("100");
    expect(parseNumber(".5")).toBe(0.5);
  });
});

describe("typed points", () => {
  it.each([
    ["12, 30", "mm", [12, 30]],
    ["12 30", "mm", [12, 30]],
    ["12,30", "mm", [12, 30]],
    ["-1.5; 2", "mm", [-1.5, 2]],
    ["1/2, -1/4", "inch", [12.7, -6.35]],
    ["10mm, 1", "inch", [10, 25.4]],
  ] as const)("%s in %s", (text, units, point) => expect(parsePoint(text, units)).toEqual(point));
  it.each(["", "12", "a, b", "1, 2, 3"])("“%s” is none", (text) => expect(parsePoint(text, "mm")).toBeNull());
});

describe("lengths in messages", () => {
  it("are read in the maker's units", () => {
    const told = "The gap is 0.30 mm wide; under 0.6 mm it fills. 12.5 mm² are lost.";
    expect(inUnits(told, "mm")).toBe(told);
    expect(inUnits(told, "inch")).toBe(
      "The gap is 0.012 in wide; under 0.024 in it fills. 0.019 in² are lost.",
    );
  });
});
