import type { Point } from "../flat/place";

/** A segment of a contour: its start, two handles, its end; mm on the sheet. */
export type Segment = { points: [Point, Point, Point, Point]; straight: boolean };
export type Contour = { segments: Segment[]; closed: boolean };

const NUMBER = /-?\d*\.?\d+(?:e[-+]?\d+)?/g;
const SAME = 1e-9;

/** Contours of path data in M, L, C and Z, absolute. */
export function contoursOf(path: string): Contour[] {
  return path
    .split("M")
    .slice(1)
    .map((run) => {
      const [head = "", ...parts] = run.replace("Z", "").split(/(?=[LC])/);
      const start = pairs(head)[0] ?? [0, 0];
      const closed = run.includes("Z");
      const segments: Segment[] = [];
      let at: Point = start;
      for (const part of parts) {
        const more = pairs(part.slice(1));
        if (part[0] === "L") {
          for (const to of more) {
            segments.push(line(at, to));
            at = to;
          }
        } else {
          for (let i = 0; i + 2 < more.length; i += 3) {
            const [one, two, to] = [more[i], more[i + 1], more[i + 2]];
            if (!one || !two || !to) continue;
            segments.push({ points: [at, one, two, to], straight: false });
            at = to;
          }
        }
      }
      if (closed && Math.hypot(at[0] - start[0], at[1] - start[1]) > SAME) segments.push(line(at, start));
      return { segments, closed };
    });
}

function pairs(text: string): Point[] {
  const numbers = text.match(NUMBER)?.map(Number) ?? [];
  return Array.from({ length: Math.floor(numbers.length / 2) }, (_, i) => [
    numbers[2 * i] ?? 0,
    numbers[2 * i + 1] ?? 0,
  ]);
}

function line(from: Point, to: Point): Segment {
  const third: Point = [(to[0] - from[0]) / 3, (to[1] - from[1]) / 3];
  return {
    points: [from, [from[0] + third[0], from[1] + third[1]], [to[0] - third[0], to[1] - third[1]], to],
    straight: true,
  };
}

/** Where the nodes of a contour lie; an open one has one more than segments. */
export function nodePlaces(contour: Contour): Point[] {
  const places = contour.segments.map((s) => s.points[0]);
  const last = contour.segments.at(-1);
  return contour.closed || !last ? places : [...places, last.points[3]];
}

/** The contour with nodes moved, each with its handles: what the hand sees before the server has answered. */
export function withMoved(contour: Contour, nodes: ReadonlySet<number>, dx: number, dy: number): Contour {
  const count = contour.segments.length;
  const shift = (p: Point): Point => [p[0] + dx, p[1] + dy];
  const segments = contour.segments.map((segment, i) => {
    const begins = nodes.has(i);
    const ends = nodes.has(contour.closed ? (i + 1) % count : i + 1);
    const [a, b, c, d] = segment.points;
    if (segment.straight) return line(begins ? shift(a) : a, ends ? shift(d) : d);
    return {
      points: [begins ? shift(a) : a, begins ? shift(b) : b, ends ? shift(c) : c, ends ? shift(d) : d],
      straight: false,
    } satisfies Segment;
  });
  return { segments, closed: contour.closed };
}

/** The contour with one handle moved; linked, the one across the node turns with it. */
export function withHandle(
  contour: Contour,
  segment: number,
  handle: 1 | 2,
  to: Point,
  linked: boolean,
): Contour {
  const segments = contour.segments.map((s) => ({
    points: [...s.points] as Segment["points"],
    straight: s.straight,
  }));
  const one = segments[segment];
  if (!one) return contour;
  one.points[handle] = to;
  one.straight = false;
  const count = segments.length;
  const step = handle === 1 ? -1 : 1;
  const at = contour.closed ? (segment + step + count) % count : segment + step;
  const other = segments[at];
  if (linked && other && !other.straight) {
    const node = handle === 1 ? one.points[0] : one.points[3];
    const across = handle === 1 ? 2 : 1;
    const way: Point = [node[0] - to[0], node[1] - to[1]];
    const size = Math.hypot(...way);
    const reach = Math.hypot(other.points[across][0] - node[0], other.points[across][1] - node[1]);
    if (size > 0)
      other.points[across] = [node[0] + (way[0] / size) * reach, node[1] + (way[1] / size) * reach];
  }
  return { segments, closed: contour.closed };
}

export function pathOf(contours: readonly Contour[]): string {
  return contours
    .map(({ segments, closed }) => {
      const first = segments[0];
      if (!first) return "";
      const body = segments
        .map(({ points: [, b, c, d], straight }) =>
          straight ? `L${d.join(" ")}` : `C${b.join(" ")} ${c.join(" ")} ${d.join(" ")}`,
        )
        .join("");
      return `M${first.points[0].join(" ")}${body}${closed ? "Z" : ""}`;
    })
    .join("");
}

/** Points along the contours, near enough to each other to be snapped to. */
export function along(contours: readonly Contour[], steps = 8): Point[][] {
  return contours.map(({ segments }) => {
    const points: Point[] = [];
    for (const { points: p, straight } of segments) {
      const many = straight ? 1 : steps;
      for (let i = 0; i < many; i++) points.push(cubic(p, i / many));
    }
    const last = segments.at(-1);
    if (last) points.push(last.points[3]);
    return points;
  });
}

function cubic([a, b, c, d]: Segment["points"], t: number): Point {
  const v = 1 - t;
  const mix = (k: 0 | 1) => v * v * v * a[k] + 3 * v * v * t * b[k] + 3 * v * t * t * c[k] + t * t * t * d[k];
  return [mix(0), mix(1)];
}
