import { contoursOf } from "../shape/contours";
import type { Point } from "./place";

/** Nodes of SVG path data (M, L, C, Z, absolute) and the directions in and out of each. */
export type Node = { x: number; y: number; in: [number, number]; out: [number, number] };

/** An outline turns at a corner by more than this, radians: as where corners are traced (core/trace/corners). */
const CORNER = 0.5;
const SAME = 1e-6;

export function nodesOf(path: string): Node[] {
  return contoursOf(path).flatMap(({ segments }) =>
    segments.map((segment, i) => {
      const [x, y] = segment.points[0];
      const before = segments.at(i - 1) ?? segment;
      return { x, y, in: direction([...before.points].reverse(), -1), out: direction(segment.points, 1) };
    }),
  );
}

/** Unit direction at the first point, towards the next that differs. */
function direction(points: readonly Point[], sign: number): [number, number] {
  const [from, ...rest] = points;
  for (const to of rest) {
    const dx = to[0] - (from?.[0] ?? 0);
    const dy = to[1] - (from?.[1] ?? 0);
    const length = Math.hypot(dx, dy);
    if (length > SAME) return [(sign * dx) / length, (sign * dy) / length];
  }
  return [1, 0];
}

export function isCorner(node: Node): boolean {
  const [a, b] = node.in;
  const [c, d] = node.out;
  return Math.abs(Math.atan2(a * d - b * c, a * c + b * d)) > CORNER;
}
