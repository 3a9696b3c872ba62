import type { Point } from "../flat/place";
import { useBench } from "../store";
import { fitNext } from "../signals";
import { along, contoursOf } from "./contours";
import { boxOf, seed, type Item, type NewThing } from "./objects";
import type { ShapeForm } from "./state";

type Form = Extract<NewThing, { kind: "shape" }>;
/** Where a shape lies and how large it is, mm. */
export type Extent = { at: Point; width: number; height: number; inner?: number };

/** The least size of a shape, mm. */
const LEAST = 0.5;
/** How wide the band of a ring round something is, mm. */
const BAND = 5;
/** Sides of a polygon, points of a star, and its notches' diameter against that of its points. */
export const SIDES = 6;
export const POINTS = 5;
export const NOTCH = 0.45;
/** Inner diameter of a ring that is drawn, against the outer one. */
const RING = 0.75;
/** Points looked at on a curve, and what may lie outside the lines between them, mm. */
const STEPS = 48;
const BETWEEN = 0.01;

/** A shape dragged from corner to corner, or from its middle; even: as wide as high, as round and regular ones are. */
export function dragged(
  form: ShapeForm,
  from: Point,
  to: Point,
  how: { middle: boolean; even: boolean },
): Extent {
  let [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  if (how.even || !["rectangle", "ellipse"].includes(form)) {
    const side = Math.max(Math.abs(dx), Math.abs(dy));
    [dx, dy] = [dx < 0 ? -side : side, dy < 0 ? -side : side];
  }
  const by = how.middle ? 2 : 1;
  return {
    at: how.middle ? from : [from[0] + dx / 2, from[1] + dy / 2],
    width: Math.max(by * Math.abs(dx), LEAST),
    height: Math.max(by * Math.abs(dy), LEAST),
  };
}

/** The smallest shape of a kind round the middle of points that encloses them all and keeps a margin, mm. */
export function enclosing(form: ShapeForm, points: readonly Point[], margin: number): Extent {
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const [left, right, top, bottom] = [
    least(xs),
    -least(xs.map((v) => -v)),
    least(ys),
    -least(ys.map((v) => -v)),
  ];
  const at: Point = [(left + right) / 2, (top + bottom) / 2];
  const off = points.map(([x, y]): Point => [x - at[0], y - at[1]]);
  const most = (of: (p: Point) => number) => off.reduce((best, p) => Math.max(best, of(p)), 0);
  const room = margin + BETWEEN;
  const [half, high] = [Math.max((right - left) / 2, BETWEEN), Math.max((bottom - top) / 2, BETWEEN)];
  if (form === "rectangle") return { at, width: 2 * (half + room), height: 2 * (high + room) };
  if (form === "ellipse") {
    const by = most(([x, y]) => Math.hypot(x / half, y / high));
    return { at, width: 2 * (half * by + room), height: 2 * (high * by + room) };
  }
  const across = 2 * (most(([x, y]) => Math.hypot(x, y)) + room);
  const round = (width: number, inner?: number): Extent => ({
    at,
    width,
    height: width,
    ...(inner === undefined ? {} : { inner }),
  });
  if (form === "ring") return round(across + 2 * BAND, across);
  if (form === "circle") return round(across);
  if (form === "star") return round(across / NOTCH, across);
  const normals = Array.from({ length: SIDES }, (_, i) => Math.PI / 2 + ((i + 0.5) * 2 * Math.PI) / SIDES);
  const reach = Math.max(...normals.map((a) => most(([x, y]) => x * Math.cos(a) - y * Math.sin(a))));
  return round((2 * (reach + room)) / Math.cos(Math.PI / SIDES));
}

const least = (values: readonly number[]) => values.reduce((a, b) => Math.min(a, b), Infinity);

/** Puts a shape on the sheet, and picks it. beneath: under everything else. */
export function putForm(form: ShapeForm, extent: Extent, beneath = false, radius?: number): void {
  const { commit, pickAll, setTool, piece } = useBench.getState();
  const { at, width, height } = extent;
  const thing: Form = {
    kind: "shape",
    id: seed(),
    form,
    at: [at[0], at[1]],
    width,
    height,
    inner: extent.inner ?? width * (form === "star" ? NOTCH : RING),
    radius: form === "rectangle" ? (radius ?? 0) : 0,
    sides: form === "star" ? POINTS : SIDES,
    beneath,
    follow: beneath ? null : (piece?.document.symmetry ?? null),
  };
  const usual = piece?.document.default_height;
  // What lies beneath stands half as high, so that what it encloses stays to be seen.
  const raised = beneath && typeof usual === "number" && usual > 0 ? usual / 2 : null;
  commit({ do: "put-drawn", things: [thing], height: raised });
  pickAll([thing.id]);
  setTool(null);
}

/** Puts a shape round things: it encloses them wholly and lies beneath. */
export function putRound(form: ShapeForm, items: readonly Item[], margin: number): void {
  if (!boxOf(items)) return;
  const points = items.flatMap((item) => along(contoursOf(item.path), STEPS).flat());
  fitNext.send();
  // The corner of a box that is rounded by its margin keeps off what it encloses.
  putForm(form, enclosing(form, points, margin), true, margin);
}
