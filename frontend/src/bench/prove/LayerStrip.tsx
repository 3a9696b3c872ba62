import { Pause, Play } from "lucide-react";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import { SignButton } from "../../ui/Button";
import { layerOf, useProve, type Report } from "./state";
import { useRehearsal } from "./useRehearsal";

/** px that the strip leaves free above and below. */
const PAD = 38;
const FOOT = 44;
/** A whole print is played in about so long, s; no layer is shown for less or more than these, ms. */
const PLAY_SECONDS = 12;
const FASTEST = 60;
const SLOWEST = 600;
/** px between the words of two changes. */
const ROOM = 24;

/** The upright strip of layers: what each is made of, where filament is changed, and the layer that is looked at. */
export function LayerStrip() {
  const { data: rehearsed } = useRehearsal();
  const chosen = useProve((s) => s.layer);
  const playing = useProve((s) => s.playing);
  const { setLayer, setPlaying } = useProve.getState();
  const report = rehearsed?.report;
  const count = report?.layers.length ?? 0;
  const layer = layerOf(chosen, count);
  const frame = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(0);
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setHeight(entry.contentRect.height));
    watch.observe(element);
    return () => watch.disconnect();
  }, [count]);
  useEffect(() => {
    if (!playing || !count) return;
    const pause = Math.min(SLOWEST, Math.max(FASTEST, (PLAY_SECONDS * 1000) / count));
    const timer = setInterval(() => {
      const now = layerOf(useProve.getState().layer, count);
      if (now >= count - 1) setPlaying(false);
      else setLayer(now + 1);
    }, pause);
    return () => clearInterval(timer);
  }, [playing, count, setLayer, setPlaying]);
  const bands = useMemo(() => (report ? bandsOf(report) : []), [report]);
  if (!report || !count) return <div className="bg-paper border-rule w-[104px] shrink-0 border-x" />;
  const room = Math.max(height - PAD - FOOT, 1);
  const place = (index: number) => PAD + room * (1 - index / count);
  const set = (next: number) => {
    setPlaying(false);
    setLayer(Math.max(0, Math.min(next, count - 1)));
  };
  const key = (event: KeyboardEvent) => {
    const by: Record<string, number> = {
      ArrowUp: layer + (event.shiftKey ? 10 : 1),
      ArrowRight: layer + 1,
      ArrowDown: layer - (event.shiftKey ? 10 : 1),
      ArrowLeft: layer - 1,
      PageUp: layer + 10,
      PageDown: layer - 10,
      Home: 0,
      End: count - 1,
    };
    const next = by[event.key];
    if (next === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    set(next);
  };
  const drag = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box || !(event.buttons & 1)) return;
    set(Math.floor(count * (1 - (event.clientY - box.top - PAD) / room)));
  };
  const top = report.layers[layer]?.top ?? 0;
  const words = apart(
    byLayer(report).map((changes) => ({ changes, y: place((changes[0]?.layer ?? 1) - 1) })),
  );
  return (
    <section
      aria-label="Layers"
      ref={frame}
      className="bg-paper border-rule relative h-full w-[104px] shrink-0 border-x"
    >
      <h2 className="absolute top-1.5 left-2 text-[15px]">Layers</h2>
      <svg width="104" height="100%" className="absolute inset-0" aria-hidden>
        {bands.map((band) => (
          <g key={band.from}>
            {band.colours.map((colour, i) => (
              <rect
                key={i}
                x={(20 / band.colours.length) * i}
                width={20 / band.colours.length}
                y={place(band.to)}
                height={place(band.from) - place(band.to)}
                fill={colour}
              />
            ))}
          </g>
        ))}
        {room / count > 3 &&
          Array.from({ length: count + 1 }, (_, i) => (
            <path key={i} d={`M0 ${place(i)}H22`} stroke="var(--ink)" strokeOpacity={0.2} />
          ))}
        {words.map(({ y, at }, i) => (
          <path key={i} d={`M0 ${y}H24L29 ${at}H32`} fill="none" stroke="var(--remark)" strokeWidth={1.5} />
        ))}
        <path d={`M0 ${place(layer + 1)}H26`} stroke="var(--act)" strokeWidth={2.5} />
      </svg>
      {words.map(({ changes, at }) => {
        const layer = changes[0]?.layer ?? 1;
        const said = changes.map((change) => change.words).join("; ");
        return (
          <button
            key={layer}
            type="button"
            title={said}
            aria-label={`${layer}${changes.length > 1 ? ` ×${changes.length}` : ""}: ${said}`}
            onClick={() => set(layer - 1)}
            style={{ top: at - 12 }}
            className="text-remark-text absolute left-[34px] z-10 flex h-6 min-w-6 items-center gap-1 text-[12px] leading-none tabular-nums hover:underline"
          >
            <span
              aria-hidden
              className="border-hair size-2.5 rounded-full border"
              style={{ background: report.bodies[changes.at(-1)?.into ?? 0]?.colour }}
            />
            {layer}
            {changes.length > 1 && <span className="text-soft">×{changes.length}</span>}
          </button>
        );
      })}
      <div
        role="slider"
        tabIndex={0}
        aria-label="Layer"
        aria-orientation="vertical"
        aria-valuemin={1}
        aria-valuemax={count}
        aria-valuenow={layer + 1}
        aria-valuetext={`layer ${layer + 1} of ${count}, ${top.toFixed(2)} mm`}
        onKeyDown={key}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event);
        }}
        onPointerMove={drag}
        className="absolute inset-x-0 cursor-ns-resize"
        style={{ top: PAD - 6, height: room + 12 }}
      >
        <span
          aria-hidden
          className="bg-act text-on-act absolute right-0.5 rounded px-1 py-0.5 text-[12px] font-semibold tabular-nums shadow"
          style={{ top: place(layer + 1) - PAD - 5 }}
        >
          {top.toFixed(2)}
        </span>
      </div>
      <div className="absolute inset-x-0 bottom-1 flex items-center justify-between pr-2 pl-1">
        <SignButton
          label={playing ? "Stop playing the layers" : "Play the layers"}
          pressed={playing}
          onClick={() => {
            if (!playing && layer >= count - 1) setLayer(0);
            setPlaying(!playing);
          }}
        >
          {playing ? <Pause size={15} /> : <Play size={15} />}
        </SignButton>
        <span className="text-soft text-[12.5px] tabular-nums">
          {layer + 1} / {count}
        </span>
      </div>
    </section>
  );
}

/** Filament changes, those of one layer together. */
function byLayer(report: Report): Report["changes"][] {
  const layers = new Map<number, Report["changes"]>();
  for (const change of report.changes)
    layers.set(change.layer, [...(layers.get(change.layer) ?? []), change]);
  return [...layers.values()];
}

type Band = { from: number; to: number; colours: string[] };

/** Runs of layers that are made of the same filaments. */
function bandsOf(report: Report): Band[] {
  const bands: Band[] = [];
  report.layers.forEach((layer, i) => {
    const colours = [...new Set(layer.parts.map((part) => part.body))]
      .sort((a, b) => a - b)
      .map((body) => report.bodies[body]?.colour ?? "#888");
    const last = bands.at(-1);
    if (last && last.colours.join() === colours.join()) last.to = i + 1;
    else bands.push({ from: i, to: i + 1, colours });
  });
  return bands;
}

/** The words of changes, set apart where they would lie on each other. */
function apart<T extends { y: number }>(list: readonly T[]): (T & { at: number })[] {
  const placed: (T & { at: number })[] = [];
  let lowest = Infinity;
  for (const item of list) {
    const at = Math.min(item.y, lowest - ROOM);
    if (at < PAD - 8) break;
    placed.push({ ...item, at });
    lowest = at;
  }
  return placed;
}
