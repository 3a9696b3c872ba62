import { ImagePlus, Maximize, Minus, PaintBucket, Plus, Spline } from "lucide-react";
import { memo, useCallback, useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";

import type { Document, Flat, Region } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { colourOf, useDocument, useLook, useShown, useUnits } from "../select";
import { ZOOM_EVENT } from "../shortcuts";
import { useBench } from "../store";
import { CareTools } from "./CareTools";
import { NodeMarks } from "./NodeMarks";
import { RULER, Rulers } from "./Rulers";
import { around, fitted, zoomed, type Rect, type Viewport } from "./viewport";

/** A press that moves less than this (px) is a click. */
const CLICK = 4;

export function FlatView() {
  const flat = useShown();
  const document = useDocument();
  const units = useUnits();
  const look = useLook();
  const tool = useBench((s) => s.tool);
  const stop = useBench((s) => s.stop);
  const strength = useBench((s) => s.underlay);
  const { pick, setHover, setPointer } = useBench.getState();
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [view, setView] = useState<Viewport>({ scale: 4, x: 60, y: 60 });
  const [nodes, setNodes] = useState(false);
  const [filled, setFilled] = useState(false);
  const own = useRef(false);
  const press = useRef<{ x: number; y: number; view: Viewport; moved: boolean } | null>(null);

  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  const box = sheetBox(flat, stop === "Gather");
  const key =
    box && `${box.x.toFixed(2)} ${box.y.toFixed(2)} ${box.width.toFixed(2)} ${box.height.toFixed(2)}`;
  const fit = useCallback(() => {
    if (box && size.width) setView(fitted(box, size.width, size.height, RULER));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, size.width, size.height]);
  useLayoutEffect(() => {
    // Until the maker moves the sheet, it stays fitted.
    if (!own.current) fit();
  }, [fit]);

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

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
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
      if (pressed === "0") refit();
      else zoom(pressed === "-" ? 1 / 1.25 : 1.25);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    window.addEventListener(ZOOM_EVENT, key);
    return () => {
      element.removeEventListener("wheel", wheel);
      window.removeEventListener(ZOOM_EVENT, key);
    };
  }, [zoom, refit]);

  const place = (event: PointerEvent) => {
    const at = frame.current?.getBoundingClientRect();
    return { x: event.clientX - (at?.left ?? 0), y: event.clientY - (at?.top ?? 0) };
  };
  const down = (event: PointerEvent) => {
    if (event.button > 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { ...place(event), view, moved: false };
  };
  const move = (event: PointerEvent) => {
    const at = place(event);
    setPointer({ x: (at.x - view.x) / view.scale, y: (at.y - view.y) / view.scale });
    const from = press.current;
    if (!from) {
      setHover(regionAt(event));
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
    if (from && !from.moved && event.button === 0)
      pick(regionAt(event), event.shiftKey || event.ctrlKey || event.metaKey);
  };

  return (
    <section aria-label="Flat view" className="@container relative h-full">
      <div ref={frame} className="bg-sheet absolute inset-0 touch-none overflow-hidden">
        <svg
          role="img"
          aria-label={
            flat?.regions.length ? `${flat.regions.length} regions in the flat view` : "Empty flat view"
          }
          width={size.width}
          height={size.height}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerLeave={() => {
            setHover(null);
            setPointer(null);
          }}
          className="block cursor-crosshair"
        >
          <Patterns scale={view.scale} document={document} />
          <g transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}>
            {flat?.underlay && document?.source && (
              <image
                href={look}
                x={flat.underlay.x}
                y={flat.underlay.y}
                width={flat.underlay.width}
                height={flat.underlay.height}
                preserveAspectRatio="none"
                opacity={stop === "Gather" ? 1 : strength}
                style={{ imageRendering: view.scale * flat.mm_per_px > 4 ? "pixelated" : "auto" }}
              />
            )}
            {flat && document && (
              <>
                {flat.base_path && (
                  <path
                    d={flat.base_path}
                    fill={colourOf(document, document.base?.filament ?? "")}
                    fillOpacity={stop === "Gather" || stop === "Trace" ? 0 : 0.16}
                    fillRule="evenodd"
                    stroke="var(--ink)"
                    strokeOpacity={stop === "Gather" ? 0.25 : stop === "Trace" ? 0.4 : 1}
                    strokeDasharray={stop === "Gather" || stop === "Trace" ? "5 4" : undefined}
                    strokeWidth={1.1}
                    vectorEffect="non-scaling-stroke"
                    pointerEvents="none"
                  />
                )}
                <Bands flat={flat} />
                <Regions
                  flat={flat}
                  document={document}
                  faint={stop === "Gather" || (stop === "Trace" && !filled)}
                />
                {stop === "Trace" && flat.lost_path && <Lost path={flat.lost_path} />}
              </>
            )}
          </g>
          {flat && nodes && stop !== "Gather" && <NodeMarks flat={flat} view={view} />}
          {flat && stop === "Gather" && <CareTools key={tool} flat={flat} view={view} />}
          <Rulers view={view} width={size.width} height={size.height} units={units} />
        </svg>
        {!document?.source && <EmptySheet />}
      </div>
      <header className="pointer-events-none absolute top-[22px] right-0 left-[22px] flex items-start justify-between p-2">
        <h2 className="bg-sheet/80 rounded px-1.5 text-[15px]">Flat</h2>
        {flat?.regions.length ? (
          <div className="bg-sheet/85 pointer-events-auto flex items-center rounded-md">
            {stop !== "Gather" && <UnderlayStrength />}
            {stop === "Trace" && (
              <SignButton label="Fill the outlines" pressed={filled} onClick={() => setFilled(!filled)}>
                <PaintBucket size={15} />
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
          </div>
        ) : null}
      </header>
    </section>
  );
}

function regionAt(event: PointerEvent): string | null {
  // With the pointer captured the event's target is the sheet, so ask what lies beneath.
  const beneath = window.document.elementFromPoint(event.clientX, event.clientY);
  return beneath instanceof SVGElement ? (beneath.dataset.region ?? null) : null;
}

/** What a fitted sheet shows: the art and its base; in Gather the whole picture. */
function sheetBox(flat: Flat | null, picture: boolean): Rect | null {
  if (!flat?.regions.length) return null;
  if (picture && flat.underlay) return flat.underlay;
  const art = { x: 0, y: 0, width: flat.width, height: flat.height };
  if (!flat.base_box) return art;
  const [x, y, width, height] = flat.base_box;
  return around(art, { x, y, width, height });
}

/** Specks and pinholes that are left out, struck out so that nothing goes unseen. */
function Lost({ path }: { path: string }) {
  return (
    <path
      data-lost
      d={path}
      fill="var(--error)"
      fillOpacity={0.25}
      stroke="var(--error)"
      strokeWidth={1.2}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}

/** The soft band beneath what is picked or hovered. */
function Bands({ flat }: { flat: Flat }) {
  const picked = useBench((s) => s.picked);
  const hover = useBench((s) => s.hover);
  return (
    <g fill="none" stroke="var(--act)" pointerEvents="none" strokeLinejoin="round">
      {flat.regions
        .filter((r) => picked.includes(r.id) || r.id === hover)
        .map((r) => (
          <path
            key={r.id}
            d={r.path}
            strokeWidth={picked.includes(r.id) ? 11 : 7}
            strokeOpacity={picked.includes(r.id) ? 0.45 : 0.25}
            vectorEffect="non-scaling-stroke"
          />
        ))}
    </g>
  );
}

const Regions = memo(function Regions({
  flat,
  document,
  faint,
}: {
  flat: Flat;
  document: Document;
  faint: boolean;
}) {
  return (
    <g strokeLinejoin="round">
      {flat.regions.map((region) => (
        <path
          key={region.id}
          data-region={region.id}
          d={region.path}
          {...paint(region, document, faint)}
          fillRule="evenodd"
          stroke="var(--ink)"
          strokeWidth={1.4}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </g>
  );
});

/** Raised and flush in the filament's colour, sunk hatched, through dotted. */
function paint(region: Region, document: Document, faint: boolean): { fill: string; fillOpacity: number } {
  if (region.height === "through") return { fill: "url(#dotted)", fillOpacity: faint ? 0.5 : 1 };
  if (region.height < 0) return { fill: "url(#hatched)", fillOpacity: faint ? 0.5 : 1 };
  return { fill: colourOf(document, region.filament), fillOpacity: faint ? 0.18 : 0.55 };
}

function Patterns({ scale, document }: { scale: number; document: Document | null }) {
  const unit = 1 / scale;
  const base = colourOf(document, document?.base?.filament ?? "");
  return (
    <defs>
      <pattern
        id="hatched"
        width={7 * unit}
        height={7 * unit}
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width={7 * unit} height={7 * unit} fill={base} fillOpacity={0.22} />
        <path d={`M0 0V${7 * unit}`} stroke="var(--ink)" strokeOpacity={0.6} strokeWidth={1.6 * unit} />
      </pattern>
      <pattern id="dotted" width={8 * unit} height={8 * unit} patternUnits="userSpaceOnUse">
        <rect width={8 * unit} height={8 * unit} fill="var(--sheet)" />
        <circle cx={4 * unit} cy={4 * unit} r={1.3 * unit} fill="var(--ink)" fillOpacity={0.6} />
      </pattern>
    </defs>
  );
}

function UnderlayStrength() {
  const strength = useBench((s) => s.underlay);
  const setUnderlay = useBench((s) => s.setUnderlay);
  return (
    <label className="text-soft hidden items-center gap-1.5 pr-1 pl-2 text-xs @xs:flex">
      underlay
      <input
        type="range"
        min={0}
        max={1}
        step={0.05}
        value={strength}
        onChange={(event) => setUnderlay(Number(event.target.value))}
        className="accent-act w-20"
      />
    </label>
  );
}

function EmptySheet() {
  const putPicture = useBench((s) => s.putPicture);
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <div className="absolute inset-0 grid place-items-center pt-6 pl-6 text-center">
      <div className="max-w-xs">
        <h2 className="mb-1.5 text-2xl">Begin with a picture</h2>
        <p className="text-soft mb-4">
          Drop a silhouette, a logo or a drawing here, or paste a screen grab. Few solid colours trace best.
        </p>
        <button
          type="button"
          onClick={() => chooser.current?.click()}
          className="bg-act text-on-act inline-flex h-8 items-center gap-1.5 rounded-md px-3 font-medium"
        >
          <ImagePlus size={16} aria-hidden /> Choose a picture
        </button>
        <input
          ref={chooser}
          type="file"
          accept="image/*"
          className="hidden"
          aria-label="Picture for this piece"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) void putPicture(file);
          }}
        />
      </div>
    </div>
  );
}
