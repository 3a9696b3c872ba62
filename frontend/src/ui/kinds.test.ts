import { describe, expect, it } from "vitest";

import { areRecipe, isDrawing, titleOf } from "./kinds";

const file = (name: string, type = "") => new File(["x"], name, { type });

describe("kinds of files that come in", () => {
  it("knows drawings by their name and by their type", () => {
    expect(isDrawing(file("Pear.SVG"))).toBe(true);
    expect(isDrawing(file("plate.dxf"))).toBe(true);
    expect(isDrawing(file("clipboard", "image/svg+xml"))).toBe(true);
    expect(isDrawing(file("pear.png", "image/png"))).toBe(false);
    expect(isDrawing(file("svg"))).toBe(false);
  });
  it("knows a recipe among the files that come with it", () => {
    expect(areRecipe([file("art.svg"), file("recipe.json")])).toBe(true);
    expect(areRecipe([file("coaster.zip")])).toBe(true);
    expect(areRecipe([file("art.svg")])).toBe(false);
    expect(areRecipe([])).toBe(false);
  });
  it("makes a piece's name of a file's", () => {
    expect(titleOf(file("watering-can_two.svg"))).toBe("Watering can two");
    expect(titleOf(file("plot.14.dxf"))).toBe("Plot.14");
    expect(titleOf(file(".svg"))).toBe("New piece");
  });
});
