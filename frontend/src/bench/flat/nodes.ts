/** Nodes of SVG path data (M, L, C, Z, absolute) and the directions in and out of each. */
export type Node = { x: number; y: number; in: [number, number]; out: [number, number] };

/** An outline turns at a corner by more than this, radians. */
const CORNER = 0.2;
const SAME = 1e-6;

type Point = readonly [number, number];

export function nodesOf(path: string): Node[] {
  return path
    .split("M")
    .slice(1)
    .flatMap((run) => {
      const [head = "", ...parts] = run.replace("Z", "").split(/(?=[LC])/);
      const start = pairs(head)[0] ?? [0, 0];
      const segments: Point[][] = [];
      let at: Point = start;
      for (const part of parts) {
        const more = pairs(part.slice(1));
        segments.push([at, ...more]);
        at = more.at(-1) ?? at;
      }
      if (run.includes("Z") && Math.hypot(at[0] - start[0], at[1] - start[1]) > SAME)
        segments.push([at, start]);
      return segments.map((segment, i) => {
        const before = segments.at(i - 1) ?? segment;
        const [x, y] = segment[0] ?? start;
        return { x, y, in: direction([...before].reverse(), -1), out: direction(segment, 1) };
      });
    });
}

function pairs(text: string): Point[] {
  const numbers = text.match(/-?\d*\.?\d+(?:e-?\d+)?/g)?.map(Number) ?? [];
  return Array.from({ length: numbers.length / 2 }, (_, i) => [numbers[2 * i] ?? 0, numbers[2 * i + 1] ?? 0]);
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
