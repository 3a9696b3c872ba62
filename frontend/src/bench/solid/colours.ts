import { Color } from "three";

import type { Run, Solid } from "./solid";

/** A colour for every corner: red, green, blue and cover, up to 255. */
export function colours(solid: Solid): Uint8Array {
  const last = solid.runs.at(-1);
  const result = new Uint8Array(last ? (last.start + last.count) * 12 : 0).fill(255);
  const colour = new Color();
  for (const run of solid.runs) paint(result, run, colour.set(run.colour));
  return result;
}

/** Gives the corners of a run a colour. */
export function paint(corners: Uint8Array, run: Run, { r, g, b }: Color) {
  for (let i = run.start * 12; i < (run.start + run.count) * 12; i += 4) {
    corners[i] = Math.round(r * 255);
    corners[i + 1] = Math.round(g * 255);
    corners[i + 2] = Math.round(b * 255);
  }
}
