import type { Viewport } from "../flat/viewport";
import type { Rehearsed, Report } from "./state";
import type { Pattern } from "./useRehearsal";
import { KIND_COLOURS } from "./words";

/** Room round what is on a bed, px. */
const MARGIN = 28;
/** How strongly the layer below is seen. */
const UNDER = 0.22;

/** What of a rehearsal is drawn. */
export type Drawn = Pick<Rehearsed, "report" | "printer">;

export type Size = { width: number; height: number };

/** The bed's depth; a round one is as deep as it is wide. */
export const depthOf = ({ printer }: Drawn) => (printer.bed === "round" ? printer.width : printer.depth);

/** All copies on a bed, with room round them. */
export function fittedTo(rehearsed: Drawn, bed: number, size: Size): Viewport {
  const [left, low, right, high] = rehearsed.report.beds[bed]?.box ?? [0, 0, 100, 100];
  const box = { x: left, y: depthOf(rehearsed) - high, width: right - left, height: high - low };
  const scale = Math.max(
    0.1,
    Math.min((size.width - 2 * MARGIN) / box.width, (size.height - 2 * MARGIN) / box.height),
  );
  return {
    scale,
    x: size.width / 2 - (box.x + box.width / 2) * scale,
    y: size.height / 2 - (box.y + box.height / 2) * scale,
  };
}

export function onBed(
  [x, y]: readonly [number, number],
  { report }: Drawn,
  place: Report["beds"][number]["places"][number],
): [number, number] {
  const [u, v] = [x - report.corner[0], y - report.corner[1]];
  const [cos, sin] = [Math.cos(place.turn), Math.sin(place.turn)];
  return [u * cos - v * sin + place.x, u * sin + v * cos + place.y];
}

export type Shown = { key: string; layer: number; patterns: (Pattern | undefined)[] } | null;
export type How = {
  colours: "filament" | "kind";
  bed: number;
  trouble: number | null;
  under: (Pattern | undefined)[];
};

/** A layer on its bed. */
export function draw(
  pen: CanvasRenderingContext2D,
  rehearsed: Drawn,
  view: Viewport,
  shown: Shown,
  how: How,
) {
  const style = getComputedStyle(document.documentElement);
  const { printer, report } = rehearsed;
  const depth = depthOf(rehearsed);
  pen.clearRect(0, 0, pen.canvas.width, pen.canvas.height);
  pen.translate(view.x, view.y);
  pen.scale(view.scale, view.scale);
  bedOf(pen, printer.bed, printer.width, depth, view.scale, style);
  // From here on y runs up, as on the bed.
  pen.translate(0, depth);
  pen.scale(1, -1);
  if (!shown) return;
  const parts = report.layers[shown.layer]?.parts ?? [];
  const spot = how.trouble === null ? undefined : report.troubles[how.trouble];
  for (const place of report.beds[how.bed]?.places ?? []) {
    pen.save();
    pen.translate(place.x, place.y);
    pen.rotate(place.turn);
    pen.translate(-report.corner[0], -report.corner[1]);
    // What stands lower or ends below is seen as what it covers.
    covered(pen, report.footprint, style.getPropertyValue("--rule"));
    const below = report.layers[shown.layer - 1]?.parts ?? [];
    how.under.forEach((pattern, i) => {
      const body = below[i] && report.bodies[below[i].body];
      if (pattern && body) lines(pen, pattern, report.kinds, body.colour, view.scale, UNDER);
    });
    shown.patterns.forEach((pattern, i) => {
      const body = parts[i] && report.bodies[parts[i].body];
      if (pattern && body)
        lines(pen, pattern, report.kinds, how.colours === "filament" ? body.colour : null, view.scale);
    });
    if (spot) outline(pen, spot.shape, view.scale, style.getPropertyValue("--error"));
    pen.restore();
  }
}

function covered(pen: CanvasRenderingContext2D, rings: readonly (readonly number[])[], colour: string) {
  pen.fillStyle = colour;
  pen.globalAlpha = 0.55;
  pen.beginPath();
  for (const ring of rings) {
    pen.moveTo(ring[0] ?? 0, ring[1] ?? 0);
    for (let i = 2; i + 1 < ring.length; i += 2) pen.lineTo(ring[i] ?? 0, ring[i + 1] ?? 0);
    pen.closePath();
  }
  pen.fill("evenodd");
  pen.globalAlpha = 1;
}

function bedOf(
  pen: CanvasRenderingContext2D,
  kind: "rectangle" | "round",
  width: number,
  depth: number,
  scale: number,
  style: CSSStyleDeclaration,
) {
  pen.lineWidth = 1.2 / scale;
  pen.strokeStyle = style.getPropertyValue("--soft");
  pen.fillStyle = style.getPropertyValue("--paper");
  pen.beginPath();
  if (kind === "round") pen.arc(width / 2, width / 2, width / 2, 0, 2 * Math.PI);
  else pen.rect(0, 0, width, depth);
  pen.fill();
  pen.stroke();
  pen.save();
  pen.clip();
  pen.beginPath();
  for (let x = 10; x < width; x += 10) {
    pen.moveTo(x, 0);
    pen.lineTo(x, depth);
  }
  for (let y = 10; y < depth; y += 10) {
    pen.moveTo(0, y);
    pen.lineTo(width, y);
  }
  pen.strokeStyle = style.getPropertyValue("--rule");
  pen.lineWidth = 1 / scale;
  pen.stroke();
  pen.restore();
}

/** Lines at their true widths; with a hair of light between them where they are large enough to be told. */
function lines(
  pen: CanvasRenderingContext2D,
  { step, lines, missing }: Pattern,
  kinds: readonly string[],
  filament: string | null,
  scale: number,
  strength = 1,
) {
  pen.lineJoin = "round";
  for (const [kind, width, points] of lines) {
    pen.beginPath();
    for (let i = 0; i < points.length; i += 2)
      pen.lineTo((points[i] ?? 0) * step, (points[i + 1] ?? 0) * step);
    const gap = Math.min(0.12 * width, 0.8 / scale);
    pen.lineWidth = Math.max(width - gap, 0.6 / scale);
    pen.lineCap = "butt";
    pen.strokeStyle = filament ?? KIND_COLOURS[kinds[kind] ?? ""] ?? "#888";
    pen.globalAlpha = strength * (filament && kinds[kind] === "infill" ? 0.72 : 1);
    pen.stroke();
  }
  pen.globalAlpha = 1;
  if (!missing.length || strength < 1) return;
  pen.beginPath();
  for (const ring of missing) trace(pen, ring, step);
  pen.fillStyle = "#c9302c";
  pen.fill("evenodd");
  pen.lineWidth = 1.5 / scale;
  pen.strokeStyle = "#c9302c";
  pen.stroke();
}

function outline(
  pen: CanvasRenderingContext2D,
  rings: readonly (readonly number[])[],
  scale: number,
  colour: string,
) {
  pen.beginPath();
  for (const ring of rings) trace(pen, ring, 1);
  pen.strokeStyle = colour;
  pen.lineWidth = 3 / scale;
  pen.stroke();
}

function trace(pen: CanvasRenderingContext2D, ring: readonly number[], step: number) {
  for (let i = 0; i < ring.length; i += 2) {
    const [x, y] = [(ring[i] ?? 0) * step, (ring[i + 1] ?? 0) * step];
    if (i) pen.lineTo(x, y);
    else pen.moveTo(x, y);
  }
  pen.closePath();
}
