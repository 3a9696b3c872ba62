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

/**
 * How far from its middle a box must be seen, from a direction of length 1 and with z up, so that it fits a view whose
 * half width and height are `halves` at a distance of 1; mm.
 */
export function distanceFor(
  from: Vector3,
  size: Spot,
  [halfWidth, halfHeight]: readonly [number, number],
): number {
  const right = new Vector3(0, 0, 1).cross(from).normalize();
  const up = from.clone().cross(right);
  const corners = [-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-1, 1].map((z) => new Vector3(x, y, z))));
  const least = corners.map((corner) => {
    const at = corner.multiply(new Vector3(...size)).multiplyScalar(0.5);
    return at.dot(from) + Math.max(Math.abs(at.dot(right)) / halfWidth, Math.abs(at.dot(up)) / halfHeight);
  });
  return Math.max(...least);
}
