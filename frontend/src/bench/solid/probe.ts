import { Vector3 } from "three";

/** Points of the solid in mm: x, y, z. */
export type Spot = readonly [number, number, number];

export type Way = { distance: number; across: number; deep: number; up: number };

/** How far it is from one point of the solid to another, and how far along each axis; mm. */
export function wayBetween(from: Spot, to: Spot): Way {
  const [across, deep, up] = [0, 1, 2].map((i) => Math.abs((to[i] ?? 0) - (from[i] ?? 0))) as [
    number,
    number,
    number,
  ];
  return { distance: Math.hypot(across, deep, up), across, deep, up };
}

/** The corner nearest to a point, when one lies within reach; else the point itself. */
export function snappedTo(point: Spot, corners: readonly Spot[], reach: number): Spot {
  let best = point;
  let least = reach;
  for (const corner of corners) {
    const { distance } = wayBetween(point, corner);
    if (distance <= least) [best, least] = [corner, distance];
  }
  return best;
}

/** An upright cut along a line on the plan: what lies on its left is kept, or on its right when turned. */
export type Cut = { from: Spot; to: Spot; shift: number; turned: boolean };

/** The cut's plane: its normal points into what is kept; `at` is a point of it. Null for a line of no length. */
export function planeOf({ from, to, shift, turned }: Cut): { normal: Spot; at: Spot } | null {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const length = Math.hypot(dx, dy);
  if (length < 1e-6) return null;
  const sign = turned ? -1 : 1;
  const [nx, ny] = [(-dy / length) * sign, (dx / length) * sign];
  return { normal: [nx, ny, 0], at: [from[0] + nx * shift, from[1] + ny * shift, 0] };
}

/** Of many points only so many are asked; the rest lie between them. */
const MOST_ASKED = 30_000;

/**
 * From where points fill a view: how far from the target, looking from a direction of length 1 with z up, and how far
 * the target is to be moved to the right and up of what is seen so that they stand in the middle; mm. `halves` are the
 * half width and height of the view at a distance of 1.
 */
export function framed(
  from: Vector3,
  points: ArrayLike<number>,
  target: Spot,
  [halfWidth, halfHeight]: readonly [number, number],
): { distance: number; right: number; up: number } {
  const right = new Vector3(0, 0, 1).cross(from).normalize();
  const up = from.clone().cross(right);
  let [rightmost, leftmost, highest, lowest] = [-Infinity, -Infinity, -Infinity, -Infinity];
  const step = 3 * Math.max(1, Math.floor(points.length / 3 / MOST_ASKED));
  for (let i = 0; i + 2 < points.length; i += step) {
    const x = (points[i] ?? 0) - target[0];
    const y = (points[i + 1] ?? 0) - target[1];
    const z = (points[i + 2] ?? 0) - target[2];
    const near = x * from.x + y * from.y + z * from.z;
    const across = (x * right.x + y * right.y + z * right.z) / halfWidth;
    const high = (x * up.x + y * up.y + z * up.z) / halfHeight;
    rightmost = Math.max(rightmost, near + across);
    leftmost = Math.max(leftmost, near - across);
    highest = Math.max(highest, near + high);
    lowest = Math.max(lowest, near - high);
  }
  return {
    distance: Math.max(rightmost + leftmost, highest + lowest) / 2,
    right: ((rightmost - leftmost) / 2) * halfWidth,
    up: ((highest - lowest) / 2) * halfHeight,
  };
}
