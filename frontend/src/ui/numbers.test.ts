import { describe, expect, it } from "vitest";

import { PLAIN } from "./fields";
import { formatLength, MM_PER_INCH, parseLength, parseNumber, trimmed, unitName } from "./length";

describe("typed numbers", () => {
  it.each([
    ["12", 12],
    [" 12.5 ", 12.5],
    ["12,5", 12.5],
    [".5", 0.5],
    ["1/4", 0.25],
    ["80/3", 80 / 3],
    ["-3", -3],
    ["+3", 3],
  ])("reads %s", (text, value) => {
    expect(parseNumber(text)).toBeCloseTo(value, 10);
  });

  it.each(["", "abc", "1//2", "1/0", "--2", "12 13", "1e5", "∞"])("refuses %s", (text) => {
    expect(parseNumber(text)).toBeNull();
  });

  it("takes plain values with a comma or a point", () => {
    expect(PLAIN.parse("0,25")).toBe(0.25);
    expect(PLAIN.parse("0.25")).toBe(0.25);
    expect(PLAIN.parse("a quarter")).toBeNull();
    expect(PLAIN.format(2.5)).toBe("2.5");
  });
});

describe("typed lengths", () => {
  it.each([
    ["12", "mm", 12],
    ["12mm", "inch", 12],
    ["1.2 cm", "mm", 12],
    ["1/2in", "mm", 12.7],
    ['2"', "mm", 50.8],
    ["2", "inch", 50.8],
    ["2 INCH", "mm", 50.8],
  ] as const)("reads %s in %s", (text, units, mm) => {
    expect(parseLength(text, units)).toBeCloseTo(mm, 10);
  });

  it.each(["mm", "12 ft", "in 3", ""])("refuses %s", (text) => {
    expect(parseLength(text, "mm")).toBeNull();
  });

  it("is written as it was typed", () => {
    for (const mm of [0.05, 1, 12.7, 80 / 3, 254])
      for (const units of ["mm", "inch"] as const) {
        const read = parseLength(formatLength(mm, units), units);
        expect(Math.abs((read ?? NaN) - mm)).toBeLessThan(
          units === "mm" ? 0.0051 : 0.0005 * MM_PER_INCH + 1e-9,
        );
      }
  });

  it("drops needless zeros, and the sign of nothing", () => {
    expect(trimmed(1.5, 3)).toBe("1.5");
    expect(trimmed(100, 0)).toBe("100");
    expect(trimmed(-0.0001, 2)).toBe("0");
    expect([unitName("mm"), unitName("inch")]).toEqual(["mm", "in"]);
  });
});
