import type { Flat } from "../../api/client";
import type { Viewport } from "./viewport";

export type Point = readonly [number, number];

/** A point of the screen (px in the flat view) in px of the picture. */
export function onPicture([x, y]: Point, flat: Flat, view: Viewport): [number, number] {
  const left = flat.underlay?.x ?? 0;
  const top = flat.underlay?.y ?? 0;
  return [
    ((x - view.x) / view.scale - left) / flat.mm_per_px,
    ((y - view.y) / view.scale - top) / flat.mm_per_px,
  ];
}

/** A point of the picture (px) on the screen. */
export function onScreen([x, y]: Point, flat: Flat, view: Viewport): [number, number] {
  const left = flat.underlay?.x ?? 0;
  const top = flat.underlay?.y ?? 0;
  return [
    (x * flat.mm_per_px + left) * view.scale + view.x,
    (y * flat.mm_per_px + top) * view.scale + view.y,
  ];
}

/** What takes one flat view of a picture onto another, as an SVG transform: the picture lies on itself. */
export function aligned(one: Flat, onto: Flat): string {
  const scale = onto.mm_per_px / one.mm_per_px;
  const x = (onto.underlay?.x ?? 0) - (one.underlay?.x ?? 0) * scale;
  const y = (onto.underlay?.y ?? 0) - (one.underlay?.y ?? 0) * scale;
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
