import type { Schemas } from "../../../api/client";

export type Swatch = Schemas["Swatch"];

/** Groups of colours as the maker made them, else every surface by itself. */
export function groupsOf(
  palette: readonly (readonly string[])[] | null | undefined,
  swatches: readonly Swatch[],
): string[][] {
  if (palette) return palette.map((group) => [...group]);
  return swatches.filter((s) => !s.clear).map((s) => [s.colour, ...s.bands]);
}
