import type { Flat } from "../../api/client";
import type { Viewport } from "./viewport";

export type Point = readonly [number, number];

/** A point of the screen (px in the flat view) in art units: px of the picture, or mm without one. */
export function onPicture([x, y]: Point, flat: Flat, view: Viewport): [number, number] {
  const [left = 0, top = 0] = flat.origin;
  return [
    ((x - view.x) / view.scale - left) / flat.mm_per_px,
    ((y - view.y) / view.scale - top) / flat.mm_per_px,
  ];
}

/** A point in art units on the screen. */
export function onScreen([x, y]: Point, flat: Flat, view: Viewport): [number, number] {
  const [left = 0, top = 0] = flat.origin;
  return [
    (x * flat.mm_per_px + left) * view.scale + view.x,
    (y * flat.mm_per_px + top) * view.scale + view.y,
  ];
}

/** What takes one flat view of a picture onto another, as an SVG transform: the picture lies on itself. */
export function aligned(one: Flat, onto: Flat): string {
  const scale = onto.mm_per_px / one.mm_per_px;
  const x = (onto.origin[0] ?? 0) - (one.origin[0] ?? 0) * scale;
  const y = (onto.origin[1] ?? 0) - (one.origin[1] ?? 0) * scale;
  return `translate(${x} ${y}) scale(${scale})`;
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

/** A point of the sheet (mm) in art units. */
export function inArt([x, y]: Point, flat: Flat): [number, number] {
  const [left = 0, top = 0] = flat.origin;
  return [(x - left) / flat.mm_per_px, (y - top) / flat.mm_per_px];
}

/** A point in art units on the sheet, mm. */
export function onSheet([x, y]: Point, flat: Flat): [number, number] {
  const [left = 0, top = 0] = flat.origin;
  return [x * flat.mm_per_px + left, y * flat.mm_per_px + top];
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
