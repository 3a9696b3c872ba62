import type { Flat, Underlay } from "../../api/client";
import type { Viewport } from "./viewport";

export type Point = readonly [number, number];

/** A point of the screen (px in the flat view) on the sheet, mm. */
export function fromScreen([x, y]: Point, view: Viewport): [number, number] {
  return [(x - view.x) / view.scale, (y - view.y) / view.scale];
}

/** A point of the sheet (mm) on the screen. */
export function onScreen([x, y]: Point, view: Viewport): [number, number] {
  return [x * view.scale + view.x, y * view.scale + view.y];
}

/** A point of the window (px) on the sheet that is shown, mm; null beside the flat view. */
export function fromWindow([x, y]: Point): [number, number] | null {
  const sheet = document.querySelector<SVGGElement>("[data-sheet]");
  const frame = sheet?.ownerSVGElement?.getBoundingClientRect();
  const matrix = sheet?.getScreenCTM();
  if (!frame || !matrix || x < frame.left || x > frame.right || y < frame.top || y > frame.bottom)
    return null;
  const at = new DOMPoint(x, y).matrixTransform(matrix.inverse());
  return [at.x, at.y];
}

/** A point of the sheet (mm) in px of a picture. */
export function inPicture([x, y]: Point, { at, mm_per_px, turn }: Underlay): [number, number] {
  const angle = (turn * Math.PI) / 180;
  const [dx, dy] = [(x - at[0]) / mm_per_px, (y - at[1]) / mm_per_px];
  return [dx * Math.cos(angle) + dy * Math.sin(angle), dy * Math.cos(angle) - dx * Math.sin(angle)];
}

/** How a picture lies on the sheet, as an SVG transform from its px. */
export function placeOf({ at, mm_per_px, turn }: Underlay): string {
  return `translate(${at[0]} ${at[1]}) rotate(${turn}) scale(${mm_per_px})`;
}

/** Fewer points of a line drawn by hand: none nearer to the last one kept than `least`. */
export function thinned(points: readonly Point[], least: number): Point[] {
  const kept: Point[] = [];
  for (const point of points) {
    const last = kept.at(-1);
    if (!last || Math.hypot(point[0] - last[0], point[1] - last[1]) >= least) kept.push(point);
  }
  return kept;
}

/** Width and depth of what is built, mm: the base, and what of the art stands out over it. */
export function extentOf(flat: Flat): readonly [number, number] {
  if (!flat.base_box) return [flat.width, flat.height];
  const [x, y, width, height] = flat.base_box;
  if (!flat.overhang_path) return [width, height];
  const right = Math.max(x + width, flat.left + flat.width);
  const bottom = Math.max(y + height, flat.top + flat.height);
  return [right - Math.min(x, flat.left), bottom - Math.min(y, flat.top)];
}
