import type { Flat } from "../../api/client";
import type { Point } from "../flat/place";
import { along, contoursOf, nodePlaces } from "./contours";
import type { Item } from "./objects";
import type { SnapTo } from "./state";

export type Snap = { at: Point; kind: SnapTo | "picture" };

export type SnapField = { nodes: Point[]; centres: Point[]; edges: Point[][]; picture: Point[] };

/** More points than this would make the hand wait. */
const MOST = 20_000;

/** Everything that a pointer may snap to, mm on the sheet. */
export function snapField(items: readonly Item[], flat: Flat | null, skip: ReadonlySet<string>): SnapField {
  const nodes: Point[] = [];
  const centres: Point[] = [];
  const edges: Point[][] = [];
  for (const item of items) {
    if (skip.has(item.id)) continue;
    centres.push([item.box[0] + item.box[2] / 2, item.box[1] + item.box[3] / 2]);
    if (nodes.length > MOST) continue;
    const contours = contoursOf(item.path);
    for (const contour of contours) nodes.push(...nodePlaces(contour));
    edges.push(...along(contours));
  }
  const picture: Point[] = (flat?.underlays ?? [])
    .filter((u) => !u.hidden)
    .flatMap(({ box: [x, y, w, h] }): Point[] => [
      [x, y],
      [x + w, y],
      [x, y + h],
      [x + w, y + h],
    ]);
  return { nodes, centres, edges, picture };
}

/** Where a pointer (mm) goes: to the nearest of what is switched on within reach (mm), nodes before edges. */
export function snapped(
  at: Point,
  field: SnapField,
  on: Readonly<Record<SnapTo, boolean>>,
  reach: number,
  grid: number,
): Snap | null {
  const points = nearestPoint(
    at,
    [
      ...(on.nodes ? field.nodes.map((p) => ["nodes", p] as const) : []),
      ...(on.centres ? field.centres.map((p) => ["centres", p] as const) : []),
      ...field.picture.map((p) => ["picture", p] as const),
    ],
    reach,
  );
  if (points) return points;
  if (on.edges) {
    let best: Snap | null = null;
    let least = reach;
    for (const line of field.edges)
      for (let i = 1; i < line.length; i++) {
        const near = onLine(at, line[i - 1] ?? at, line[i] ?? at);
        const off = Math.hypot(near[0] - at[0], near[1] - at[1]);
        if (off < least) {
          least = off;
          best = { at: near, kind: "edges" };
        }
      }
    if (best) return best;
  }
  if (!on.grid) return null;
  return { at: [Math.round(at[0] / grid) * grid, Math.round(at[1] / grid) * grid], kind: "grid" };
}

function nearestPoint(
  at: Point,
  points: readonly (readonly [Snap["kind"], Point])[],
  reach: number,
): Snap | null {
  let best: Snap | null = null;
  let least = reach;
  for (const [kind, point] of points) {
    const off = Math.hypot(point[0] - at[0], point[1] - at[1]);
    if (off < least) {
      least = off;
      best = { at: point, kind };
    }
  }
  return best;
}

export function onLine(p: Point, a: Point, b: Point): Point {
  const dx = b[0] - a[0];
  const dy = b[1] - a[1];
  const square = dx * dx + dy * dy;
  const t = square ? Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / square)) : 0;
  return [a[0] + t * dx, a[1] + t * dy];
}

/**
 * A direction, radians up from the right, typed as an angle in degrees or as a slope, rise over run: `1/4`, `25%`, and
 * in a field for slopes `4` too; `30°` is an angle in either. Null when it is none.
 */
export function direction(text: string, plain: "angle" | "slope"): number | null {
  const typed = text.trim().replace(",", ".");
  const angle = /^(-?\d*\.?\d+)\s*(°|deg)$/.exec(typed);
  if (angle) return (Number(angle[1]) * Math.PI) / 180;
  const share = /^(-?\d*\.?\d+)\s*%$/.exec(typed);
  if (share) return Math.atan(Number(share[1]) / 100);
  const slope = /^(-?\d*\.?\d+)\s*[/:]\s*(\d*\.?\d+)$/.exec(typed);
  if (slope) return Math.atan2(Number(slope[1]), Number(slope[2]));
  if (!/^-?\d*\.?\d+$/.test(typed)) return null;
  return plain === "slope" ? Math.atan(Number(typed)) : (Number(typed) * Math.PI) / 180;
}

/** The direction of a way, turned to the nearest of steps of so many degrees. */
export function stepped(from: Point, to: Point, degrees: number): Point {
  const step = (degrees * Math.PI) / 180;
  const angle = Math.round(Math.atan2(to[1] - from[1], to[0] - from[0]) / step) * step;
  return turnedTo(from, to, angle);
}

/** The point nearest to `to` on the line through `from` in a direction (radians). */
export function turnedTo(from: Point, to: Point, angle: number): Point {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const length = (to[0] - from[0]) * c + (to[1] - from[1]) * s;
  return [from[0] + length * c, from[1] + length * s];
}
