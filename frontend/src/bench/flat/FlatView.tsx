import { Columns2, Grid3x3, Maximize, Minus, Contrast, Plus, Spline } from "lucide-react";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { useGestures } from "../../ui/useGestures";
import { hasBegun } from "../begun";
import { useDocument, usePicture, useShown, useUnderlay, useUnits } from "../select";
import { useKeys } from "../keys/useKeys";
import { leave, leftAt } from "../left";
import { FillMiddle } from "../FillMiddle";
import { useBench } from "../store";
import { fitNext, focusOn } from "../signals";
import { useAttempt, useLookOver } from "../useLookOver";
import { AreaMarks, AreaTools } from "./AreaTools";
import { CareTools } from "./CareTools";
import { pickColour } from "./colourPick";
import { EmptySheet } from "./EmptySheet";
import { nodesOf } from "./nodes";
import { PenLines, PenTail } from "./PenMarks";
import { PlaceTool } from "./PlaceTool";
import { regionsAt } from "./hits";
import { fromScreen } from "./place";
import { GRID_FROM, Sheet } from "./Sheet";
import { RULER, Rulers } from "./Rulers";
import { ShapeLayer } from "../shape/ShapeLayer";
import { DrawnLines } from "./DrawnLines";
import { TroubleMarks } from "./TroubleMarks";
import { ToolHint } from "./ToolHint";
import { UnderlayLook } from "./UnderlayLook";
import { usePen } from "./usePen";
import { figuresOf, told } from "../stops/trace/figures";
import { Wipe } from "./Wipe";
import { around, fitted, zoomed, type Rect, type Viewport } from "./viewport";

/** A press that moves less than this (px) is a click. */
const CLICK = 4;
/** So long (ms) after the sheet was moved its place is remembered. */
const LEAVE_MS = 400;
/** px left free round the art in an inset. */
const INSET_MARGIN = 14;
/** px of the screen that a pixel of the picture gets when pixels are looked at; from here on their grid is drawn. */
const PIXEL_ZOOM = 12;

export function FlatView({ inset = false }: { inset?: boolean }) {
  const shown = useShown();
  const document = useDocument();
  const units = useUnits();
  const tool = useBench((s) => s.tool);
  const stop = useBench((s) => s.stop);
  // What is left out is seen where it can be thought better of; elsewhere it would be a ghost.
  const flat = useMemo(
    () =>
      !shown || stop === "Trace" ? shown : { ...shown, regions: shown.regions.filter((r) => !r.left_out) },
    [shown, stop],
  );
  const wipe = useBench((s) => s.wipe);
  const comparedId = useBench((s) => s.compared);
  const compared = useAttempt(comparedId);
  const underlay = useUnderlay();
  const attemptName = usePicture()?.attempts.find((a) => a.id === comparedId)?.name;
  const { pick, setHover, setPointer } = useBench.getState();
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [moved, setView] = useState<Viewport>({ scale: 4, x: 60, y: 60 });
  const [nodes, setNodes] = useState(false);
  const [filled, setFilled] = useState(false);
  const own = useRef(false);
  const piece = useBench((s) => s.piece?.id ?? "");
  const opened = useRef("");
  const restored = useRef(false);
  /** Where the pointer was last, mm on the sheet. */
  const pointed = useRef<[number, number] | null>(null);
  const press = useRef<{ x: number; y: number; view: Viewport; moved: boolean } | null>(null);

  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width, height } = entry.contentRect;
      setSize({ width, height });
      if (!width || inset || opened.current === piece) return;
      opened.current = piece;
      // A piece that was left at some place of the sheet opens there.
      const left = leftAt(piece).view;
      if (!left) return;
      own.current = left.own;
      restored.current = true;
      const { scale, middle } = left;
      setView({ scale, x: width / 2 - middle[0] * scale, y: height / 2 - middle[1] * scale });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [piece, inset]);

  const box = sheetBox(
    flat,
    stop === "Shape",
    stop === "Gather" || (stop === "Trace" && Boolean(flat?.areas.length)),
  );
  // An inset shows the whole; where the maker moved the sheet is kept for when it is large again.
  const view = inset && box ? fitted(box, size.width, size.height, 0, INSET_MARGIN) : moved;
  const pen = usePen(flat, 1 / view.scale);
  const key =
    box && `${box.x.toFixed(2)} ${box.y.toFixed(2)} ${box.width.toFixed(2)} ${box.height.toFixed(2)}`;
  const fit = useCallback(() => {
    if (box && size.width) setView(fitted(box, size.width, size.height, RULER));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, size.width, size.height]);
  const latest = useRef(fit);
  const awaited = useRef(false);
  useLayoutEffect(() => {
    latest.current = fit;
    // Until the maker moves the sheet, it stays fitted; but never while a hand draws on it.
    if (awaited.current || (!own.current && stop !== "Shape")) fit();
    awaited.current = false;
  }, [fit, stop]);
  const somewhere = box !== null;
  useEffect(() => {
    if (!size.width || inset || opened.current !== piece) return;
    const { scale, x, y } = moved;
    const middle = [(size.width / 2 - x) / scale, (size.height / 2 - y) / scale] as const;
    const resting = setTimeout(() => leave(piece, { view: { scale, middle, own: own.current } }), LEAVE_MS);
    return () => clearTimeout(resting);
  }, [piece, moved, size.width, size.height, inset]);
  useLayoutEffect(() => {
    // A drawing that was left stands as it stood.
    if (stop === "Shape" && !own.current && !restored.current) latest.current();
    restored.current = false;
  }, [stop, size.width, size.height, somewhere]);

  const zoom = useCallback((factor: number, x?: number, y?: number) => {
    own.current = true;
    setView((v) =>
      zoomed(
        v,
        factor,
        x ?? (frame.current?.clientWidth ?? 0) / 2,
        y ?? (frame.current?.clientHeight ?? 0) / 2,
      ),
    );
  }, []);
  const refit = useCallback(() => {
    own.current = false;
    fit();
  }, [fit]);

  /** Zooms in until single pixels of the picture can be told, where the pointer was last; and back. */
  const pixels = () => {
    if (!flat) return;
    if (!underlay) return;
    if (view.scale * underlay.mm_per_px >= GRID_FROM) return refit();
    const node = flat.regions[0] && nodesOf(flat.regions[0].path)[0];
    const [x, y] = pointed.current ?? [node?.x ?? 0, node?.y ?? 0];
    const scale = PIXEL_ZOOM / underlay.mm_per_px;
    own.current = true;
    setView({ scale, x: size.width / 2 - x * scale, y: size.height / 2 - y * scale });
  };
  useEffect(() => fitNext.on(() => (awaited.current = true)), []);
  useEffect(() => {
    return focusOn.on(({ x, y, radius }) => {
      const across = Math.min(size.width, size.height);
      const scale = Math.min(400, across / Math.max(8 * radius, 0.4));
      own.current = true;
      setView({ scale, x: size.width / 2 - x * scale, y: size.height / 2 - y * scale });
    });
  }, [size.width, size.height]);

  const pan = (dx: number, dy: number) => {
    own.current = true;
    setView((v) => ({ ...v, x: v.x + dx, y: v.y + dy }));
  };
  useGestures(frame, { zoom, pan }, !inset);
  useKeys("stop", { fit: refit, zoom: ({ key }) => zoom(key === "-" ? 1 / 1.25 : 1.25) });

  const place = (event: PointerEvent) => {
    const at = frame.current?.getBoundingClientRect();
    return { x: event.clientX - (at?.left ?? 0), y: event.clientY - (at?.top ?? 0) };
  };
  useEffect(() => {
    // The pen's keys must not press the button that took it up.
    if (tool) frame.current?.focus();
  }, [tool]);
  const regionAt = ({ x, y }: { x: number; y: number }): string | null =>
    (flat && regionsAt(flat, [(x - view.x) / view.scale, (y - view.y) / view.scale])[0]) ?? null;
  const down = (event: PointerEvent) => {
    if (event.button > 1) return;
    // In Shape the sheet is moved with the middle button, or any with Space held.
    frame.current?.focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { ...place(event), view, moved: false };
  };
  const move = (event: PointerEvent) => {
    const at = place(event);
    pointed.current = [(at.x - view.x) / view.scale, (at.y - view.y) / view.scale];
    setPointer({ x: pointed.current[0], y: pointed.current[1] });
    const from = press.current;
    if (!from) {
      if (pen.on && flat) pen.move(fromScreen([at.x, at.y], view), event.shiftKey);
      else setHover(regionAt(at));
      return;
    }
    const dx = at.x - from.x;
    const dy = at.y - from.y;
    if (Math.hypot(dx, dy) > CLICK) from.moved = true;
    if (from.moved) {
      own.current = true;
      setView({ ...from.view, x: from.view.x + dx, y: from.view.y + dy });
    }
  };
  const up = (event: PointerEvent) => {
    const from = press.current;
    press.current = null;
    if (!from || from.moved || event.button !== 0) return;
    const at = place(event);
    if (pen.on && flat) pen.click(fromScreen([at.x, at.y], view), event.shiftKey);
    else if (tool === "colour" && flat) void pickColour(fromScreen([at.x, at.y], view));
    else pick(regionAt(at), event.shiftKey || event.ctrlKey || event.metaKey);
  };

  const sheet = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return (
    <section aria-label="Flat view" className="@container relative h-full">
      <div
        ref={frame}
        tabIndex={-1}
        className="bg-sheet absolute inset-0 touch-none overflow-hidden outline-none"
      >
        <div
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerCancel={() => (press.current = null)}
          onPointerLeave={() => {
            setHover(null);
            setPointer(null);
          }}
          className="absolute inset-0 cursor-crosshair"
        >
          <Sheet
            flat={flat}
            view={view}
            width={size.width}
            height={size.height}
            nodes={nodes}
            filled={filled}
          />
          <svg
            role="img"
            aria-label={
              flat?.regions.length ? `${flat.regions.length} regions in the flat view` : "Empty flat view"
            }
            width={size.width}
            height={size.height}
            pointerEvents="none"
            className="absolute inset-0 block"
          >
            <g pointerEvents="auto">
              {flat && stop !== "Gather" && (
                <>
                  {stop === "Trace" && (
                    <g transform={sheet}>
                      <AreaMarks flat={flat} />
                    </g>
                  )}
                  {stop === "Trace" && <SpotMark view={view} />}
                  {(stop === "Raise" || stop === "Prove") && <TroubleMarks view={view} />}
                  <PenLines flat={flat} view={view} />
                  <DrawnLines flat={flat} view={view} />
                  {pen.on && <PenTail view={view} start={pen.start} tail={pen.tail} />}
                </>
              )}
              {flat && stop === "Shape" && <ShapeLayer flat={flat} view={view} />}
              {flat && stop === "Trace" && <AreaTools key={tool} view={view} />}
              {flat && stop === "Gather" && <CareTools key={tool} flat={flat} view={view} />}
              {flat && stop === "Gather" && tool === "place" && <PlaceTool flat={flat} view={view} />}
              {!inset && <Rulers view={view} width={size.width} height={size.height} units={units} />}
            </g>
          </svg>
        </div>
        {!hasBegun(document) && stop !== "Shape" && <EmptySheet />}
      </div>
      {!inset && <ToolHint />}
      {stop === "Trace" && !inset && (
        <Wipe
          left={compared ? `${attemptName ?? "attempt"}: ${told(figuresOf(compared))}` : "picture"}
          right={compared && shown ? `now: ${told(figuresOf(shown))}` : "now"}
        />
      )}
      <header
        hidden={inset}
        className="pointer-events-none absolute top-[22px] right-0 left-[22px] flex items-start justify-between p-2 [&[hidden]]:hidden"
      >
        <h2 className="bg-sheet/80 rounded px-1.5 text-[15px]">Flat</h2>
        {flat && (flat.underlays.length || flat.things.length || flat.base_path || stop === "Shape") ? (
          <div className="bg-sheet/85 pointer-events-auto flex items-center rounded-md">
            {stop !== "Gather" && flat.underlays.length > 0 && <UnderlayLook />}
            {stop === "Trace" && (
              <SignButton label="Fill the outlines" pressed={filled} onClick={() => setFilled(!filled)}>
                <Contrast size={15} />
              </SignButton>
            )}
            {stop === "Trace" && (
              <SignButton
                label="Wipe between picture and outlines"
                pressed={wipe !== null}
                onClick={() => useBench.getState().setWipe(wipe === null ? 0.5 : null, null)}
              >
                <Columns2 size={15} />
              </SignButton>
            )}
            {stop === "Trace" && (
              <SignButton
                label="Look at single pixels"
                pressed={(underlay?.mm_per_px ?? 0) * view.scale >= GRID_FROM}
                onClick={pixels}
              >
                <Grid3x3 size={15} />
              </SignButton>
            )}
            {stop !== "Gather" && (
              <SignButton label="Show nodes" pressed={nodes} onClick={() => setNodes(!nodes)}>
                <Spline size={15} />
              </SignButton>
            )}
            <SignButton label="Zoom out" onClick={() => zoom(1 / 1.25)}>
              <Minus size={16} />
            </SignButton>
            <SignButton label="Zoom in" onClick={() => zoom(1.25)}>
              <Plus size={16} />
            </SignButton>
            <SignButton label="Fit" onClick={refit}>
              <Maximize size={15} />
            </SignButton>
            <FillMiddle name="flat" />
          </div>
        ) : null}
      </header>
    </section>
  );
}

/** A ring round the rough spot that is looked at. */
function SpotMark({ view }: { view: Viewport }) {
  const number = useBench((s) => s.spot);
  const spot = useLookOver()?.spots[number ?? -1];
  if (!spot) return null;
  const [x, y] = spot.at as [number, number];
  return (
    <circle
      data-spot={spot.kind}
      cx={view.x + x * view.scale}
      cy={view.y + y * view.scale}
      r={Math.max(14, spot.radius * view.scale)}
      fill="none"
      stroke="var(--remark)"
      strokeWidth={2.5}
      strokeDasharray="7 4"
      pointerEvents="none"
    />
  );
}

/** What a fitted sheet shows: the art and its base; in Gather the whole picture. */
function sheetBox(flat: Flat | null, drawing: boolean, picture: boolean): Rect | null {
  const pictures = flat?.underlays
    .filter((u) => !u.hidden)
    .map(({ box: [x, y, w, h] }) => ({ x, y, width: w, height: h }));
  if (pictures?.length && (picture || !flat?.regions.length)) return pictures.reduce(around);
  if (!flat?.regions.length && flat?.base_box) {
    const [x, y, width, height] = flat.base_box;
    return { x, y, width, height };
  }
  if (!flat?.regions.length) return flat?.things.length ? linesBox(flat) : drawing ? BLANK : null;
  const regions = { x: flat.left, y: flat.top, width: flat.width, height: flat.height };
  const open = drawing && flat.things.some((thing) => thing.open);
  const art = open ? around(regions, linesBox(flat)) : regions;
  if (!flat.base_box) return art;
  const [x, y, width, height] = flat.base_box;
  return around(art, { x, y, width, height });
}

/** What a blank sheet shows, mm. */
const BLANK: Rect = { x: 0, y: 0, width: 100, height: 80 };

/** The box of lines that enclose nothing yet. */
function linesBox(flat: Flat): Rect {
  const [x, y, width, height] = flat.things[0]?.box ?? [0, 0, 40, 40];
  const one = { x: x, y: y, width: Math.max(width, 20), height: Math.max(height, 20) };
  return flat.things.reduce((all, { box: [bx, by, w, h] }) => {
    return around(all, { x: bx, y: by, width: w, height: h });
  }, one);
}
