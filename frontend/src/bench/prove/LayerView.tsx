import { Maximize, Minus, Plus } from "lucide-react";
import { useCallback, useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";

import { SignButton } from "../../ui/Button";
import { zoomed, type Viewport } from "../flat/viewport";
import { ZOOM_EVENT } from "../shortcuts";
import { useBench } from "../store";
import { layerOf, useProve, type Rehearsed, type Report } from "./state";
import { usePatterns, useRehearsal, type Pattern } from "./useRehearsal";
import { inTime, KIND_COLOURS, troubleWords } from "./words";
import { lengths } from "../stops/parts";
import { useUnits } from "../select";

const MARGIN = 28;
/** How strongly the layer below is seen. */
const UNDER = 0.22;

/** The bed from above with the lines of one layer, at their true widths. */
export function LayerView({ inset = false }: { inset?: boolean }) {
  const { data: rehearsed, error, isPlaceholderData, isPending, dataUpdatedAt } = useRehearsal();
  const empty = useBench((s) => !s.flat?.base_path && !s.flat?.regions.some((r) => !r.left_out));
  const chosen = useProve((s) => s.layer);
  const colours = useProve((s) => s.colours);
  const bed = useProve((s) => s.bed);
  const trouble = useProve((s) => s.trouble);
  const count = rehearsed?.report.layers.length ?? 0;
  const layer = layerOf(chosen, count);
  const patterns = usePatterns(rehearsed, layer, dataUpdatedAt);
  const under = usePatterns(rehearsed, layer - 1, dataUpdatedAt);
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [moved, setMoved] = useState<Viewport | null>(null);
  const press = useRef<{ x: number; y: number; view: Viewport } | null>(null);

  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const view = (!inset && moved) || (rehearsed ? fittedTo(rehearsed, bed, size) : { scale: 1, x: 0, y: 0 });
  const latest = useRef(view);
  useEffect(() => {
    latest.current = view;
  });

  // Lines stay until those of the next layer are there.
  const [shown, setShown] = useState<Shown>(null);
  const isThere = count > 0 && patterns.every(Boolean);
  const key = `${rehearsed?.key} ${layer}`;
  if (isThere && shown?.key !== key) setShown({ key, layer, patterns });
  useEffect(() => {
    const element = canvas.current;
    if (!element || !rehearsed || !size.width) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    const pen = element.getContext("2d");
    if (!pen) return;
    pen.scale(ratio, ratio);
    draw(pen, rehearsed, view, shown, { colours, bed, trouble, under });
  });

  const zoom = useCallback((factor: number, x?: number, y?: number) => {
    const element = frame.current;
    setMoved(
      zoomed(
        latest.current,
        factor,
        x ?? (element?.clientWidth ?? 0) / 2,
        y ?? (element?.clientHeight ?? 0) / 2,
      ),
    );
  }, []);
  useEffect(() => {
    const element = frame.current;
    if (!element || inset) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const at = element.getBoundingClientRect();
      zoom(
        Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.05 : 0.0016)),
        event.clientX - at.left,
        event.clientY - at.top,
      );
    };
    const key = (event: Event) => {
      const pressed = (event as CustomEvent<string>).detail;
      if (pressed === "0") setMoved(null);
      else zoom(pressed === "-" ? 1 / 1.25 : 1.25);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener(ZOOM_EVENT, key);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener(ZOOM_EVENT, key);
    };
  }, [zoom, inset]);
  useEffect(() => {
    const spot = rehearsed?.report.troubles[trouble ?? -1];
    const place = rehearsed?.report.beds[bed]?.places[0];
    const element = frame.current;
    if (!rehearsed || !spot || !place || !element) return;
    const [x, y] = onBed(spot.at, rehearsed, place);
    const scale = Math.max(latest.current.scale, 24);
    setMoved({
      scale,
      x: element.clientWidth / 2 - x * scale,
      y: element.clientHeight / 2 - (depthOf(rehearsed) - y) * scale,
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [trouble]);

  const down = (event: PointerEvent) => {
    if (event.button > 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { x: event.clientX, y: event.clientY, view: latest.current };
  };
  const move = (event: PointerEvent) => {
    const from = press.current;
    if (!from) return;
    const { scale, x, y } = from.view;
    setMoved({ scale, x: x + event.clientX - from.x, y: y + event.clientY - from.y });
  };
  const units = useUnits();
  const spot = trouble === null ? undefined : rehearsed?.report.troubles[trouble];
  const mm = (value: number) => `${lengths(units).format(value)} ${lengths(units).unit}`;
  return (
    <section aria-label="Layer view" className="relative h-full" style={{ background: "var(--sheet)" }}>
      <div
        ref={frame}
        className={`absolute inset-0 ${inset ? "" : "cursor-grab active:cursor-grabbing"}`}
        onPointerDown={inset ? undefined : down}
        onPointerMove={move}
        onPointerUp={() => (press.current = null)}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={
            rehearsed
              ? `Layer ${layer + 1} of ${count}, ${rehearsed.report.layers[layer]?.top.toFixed(2)} mm, ${rehearsed.printer.name}`
              : "No layer yet"
          }
          data-layer={shown?.layer}
          className={`size-full ${isPlaceholderData ? "opacity-60" : ""}`}
        />
      </div>
      {!inset && (
        <header className="pointer-events-none absolute inset-x-0 top-0 flex items-start justify-between p-2.5">
          <div className="bg-paper/85 flex items-baseline gap-2 rounded-md px-1.5">
            <h2 className="text-[15px]">Bed</h2>
            {rehearsed && (
              <p className="text-soft text-[12.5px] tabular-nums">
                layer {layer + 1} of {count} · {rehearsed.report.layers[layer]?.top.toFixed(2)} mm ·{" "}
                {inTime(rehearsed.report.layers[layer]?.seconds ?? 0)}
              </p>
            )}
          </div>
          <div className="bg-sheet/85 pointer-events-auto flex rounded-md">
            <SignButton label="Zoom out" onClick={() => zoom(1 / 1.25)}>
              <Minus size={15} />
            </SignButton>
            <SignButton label="Zoom in" onClick={() => zoom(1.25)}>
              <Plus size={15} />
            </SignButton>
            <SignButton label="Fit" onClick={() => setMoved(null)}>
              <Maximize size={15} />
            </SignButton>
          </div>
        </header>
      )}
      {!inset && spot && (
        <p
          role="status"
          className="bg-remark-wash border-remark absolute bottom-3 left-3 max-w-[80%] rounded-r-md border-l-4 px-3 py-1.5"
        >
          <b>{troubleWords(spot, mm).name}</b>, layer {spot.first}
          {spot.last > spot.first ? ` to ${spot.last}` : ""}. {troubleWords(spot, mm).why}
        </p>
      )}
      {!inset && (isPending || isPlaceholderData) && !empty && (
        <p
          role="status"
          className="bg-ink text-paper absolute bottom-3 left-1/2 -translate-x-1/2 rounded-full px-4 py-1.5"
        >
          Rehearsing the print …
        </p>
      )}
      {empty && !inset && (
        <p className="text-soft absolute inset-x-6 top-1/2 text-center">
          The print is rehearsed here as soon as there is an outline.
        </p>
      )}
      {error && !empty && (
        <p
          role="alert"
          className="bg-error-wash border-error absolute inset-x-6 top-1/3 rounded-r-md border-l-4 px-4 py-2"
        >
          {error.message}
        </p>
      )}
    </section>
  );
}

type Size = { width: number; height: number };

/** The bed's depth; a round one is as deep as it is wide. */
const depthOf = ({ printer }: Rehearsed) => (printer.bed === "round" ? printer.width : printer.depth);

/** All copies on a bed, with room round them. */
function fittedTo(rehearsed: Rehearsed, bed: number, size: Size): Viewport {
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

function onBed(
  [x, y]: readonly [number, number],
  { report }: Rehearsed,
  place: Report["beds"][number]["places"][number],
): [number, number] {
  const [u, v] = [x - report.corner[0], y - report.corner[1]];
  const [cos, sin] = [Math.cos(place.turn), Math.sin(place.turn)];
  return [u * cos - v * sin + place.x, u * sin + v * cos + place.y];
}

type Shown = { key: string; layer: number; patterns: (Pattern | undefined)[] } | null;
type How = {
  colours: "filament" | "kind";
  bed: number;
  trouble: number | null;
  under: (Pattern | undefined)[];
};

function draw(pen: CanvasRenderingContext2D, rehearsed: Rehearsed, view: Viewport, shown: Shown, how: How) {
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
