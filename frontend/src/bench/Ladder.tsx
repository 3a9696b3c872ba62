import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import type { Edit, Region } from "../api/client";
import { formatLength, MM_PER_INCH, unitName } from "../ui/length";
import { ticks } from "./flat/viewport";
import { colourOf, heightWords, regionsEdit, useDocument, useShown, useUnits } from "./select";
import { useBench } from "./store";
import { supportThickness } from "./support";

/** px that the ladder leaves free above and below. */
const PAD = 34;
/** A tag is so high, px; nearer ones are set apart. */
const TAG = 22;
const HIGHEST = 500;
/** px from one number of the scale to the next, at least. */
const LABEL_ROOM = 44;

type Group = { key: string; regions: Region[]; height: number; filament: string };

/** The upright scale of heights, with the print's layers as rungs: a tag for every group of like regions. */
export function Ladder() {
  const flat = useShown();
  const document = useDocument();
  const units = useUnits();
  const picked = useBench((s) => s.picked);
  const [element, setElement] = useState<HTMLElement | null>(null);
  const [drag, setDrag] = useState<{ key: string; height: number; most: number } | null>(null);
  const press = useRef<{ y: number; height: number; group: Group } | null>(null);
  const { commit, previewEdit, pickAll } = useBench.getState();
  const stands = useBench((s) => s.flat);
  const groups = useMemo(() => grouped(stands?.regions ?? []), [stands]);
  if (!document || !flat) return null;
  const through = flat.regions.filter((r) => !r.left_out && r.height === "through");
  const floor = supportThickness(document);
  const layer = document.layer;
  const room = (element?.clientHeight ?? 500) - 2 * PAD;
  const highest = Math.max(...groups.map((g) => g.height), 1);
  const most = drag?.most ?? floor + Math.max(highest * 1.25, 2);
  const scale = room / most;
  const place = (z: number) => PAD + room - z * scale;
  const snap = (height: number) => {
    // A rung is a whole number of layers above the plate of the printer.
    const z = Math.round((floor + height) / layer) * layer;
    const low = document.base.shape === "none" || floor === 0 ? layer : -floor + layer;
    return Math.min(HIGHEST, Math.max(low, Number((z - floor).toFixed(4))));
  };
  const edit = (group: Group, height: number): Edit => regionsEdit(group.regions, { height });
  const every = Math.max(1, Math.ceil(5 / (layer * scale)));
  const inUnit = units === "mm" ? 1 : MM_PER_INCH;
  const marks = ticks(0, most / inUnit, scale * inUnit, LABEL_ROOM);
  const digits = Math.max(0, Math.ceil(-Math.log10(marks.step) - 1e-9));
  const rungs = Array.from({ length: Math.floor(most / layer / every) + 1 }, (_, i) => i * every * layer);
  const shown = groups.map((g) => (drag?.key === g.key ? { ...g, height: drag.height } : g));
  const tags = apart(shown.map((g) => ({ group: g, y: place(floor + g.height) })));
  const down = (event: PointerEvent<HTMLButtonElement>, group: Group) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { y: event.clientY, height: group.height, group };
    if (event.shiftKey) pickAll([...new Set([...picked, ...group.regions.map((r) => r.id)])]);
    else pickAll(group.regions.map((r) => r.id));
  };
  const move = (event: PointerEvent) => {
    const from = press.current;
    if (!from || Math.abs(event.clientY - from.y) < 2) return;
    const height = snap(from.height - (event.clientY - from.y) / scale);
    if (drag?.height === height) return;
    setDrag({ key: from.group.key, height, most });
    previewEdit(edit(from.group, height));
  };
  const up = () => {
    const from = press.current;
    press.current = null;
    if (from && drag && drag.height !== from.height) commit(edit(from.group, drag.height));
    setDrag(null);
  };
  const key = (event: KeyboardEvent, group: Group) => {
    const way = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    commit(edit(group, snap(group.height + way * layer * (event.shiftKey ? 10 : 1))));
  };
  return (
    <section
      aria-label="Ladder"
      className="bg-paper border-rule relative h-full w-[104px] shrink-0 border-x"
      ref={setElement}
    >
      <h2 className="absolute top-1.5 left-2 text-[15px]">Ladder</h2>
      <svg width="104" height="100%" className="absolute inset-0" aria-hidden>
        {floor > 0 && (
          <rect
            x={0}
            width={20}
            y={place(floor)}
            height={floor * scale}
            fill={colourOf(document, document.base.filament)}
          />
        )}
        {bands(shown, floor).map(({ low, high, filament }) => (
          <rect
            key={low}
            x={0}
            width={20}
            y={place(high)}
            height={(high - low) * scale}
            fill={colourOf(document, filament)}
          />
        ))}
        {rungs.map((z) => (
          <path key={z} d={`M0 ${place(z)}H25`} stroke="var(--ink)" strokeOpacity={0.2} />
        ))}
        {marks.at
          .filter((mark) => mark.major)
          .map(({ value }) => (
            <g key={value}>
              <path d={`M20 ${place(value * inUnit)}H30`} stroke="var(--ink)" strokeOpacity={0.55} />
              <text x={33} y={place(value * inUnit) + 4} fontSize={10.5} fill="var(--soft)">
                {value.toFixed(digits)}
              </text>
            </g>
          ))}
        {floor > 0 && (
          <path d={`M0 ${place(floor)}H104`} stroke="var(--ink)" strokeWidth={1.2} strokeDasharray="4 3" />
        )}
        {tags.map(({ group, y }) => (
          <path
            key={group.key}
            d={`M20 ${place(floor + group.height)}L40 ${y}`}
            stroke="var(--ink)"
            strokeOpacity={0.4}
            fill="none"
          />
        ))}
      </svg>
      {tags.map(({ group, y }) => {
        const isPicked = group.regions.some((r) => picked.includes(r.id));
        const first = group.regions[0];
        const name = group.regions.length === 1 ? (first?.name ?? "") : `${group.regions.length} regions`;
        const words = heightWords(group.height, (mm) => `${formatLength(mm, units)} ${unitName(units)}`);
        return (
          <button
            key={group.key}
            type="button"
            role="slider"
            aria-orientation="vertical"
            aria-label={`Height of ${name}`}
            aria-valuenow={group.height}
            aria-valuetext={words}
            aria-valuemin={-floor}
            aria-valuemax={HIGHEST}
            title={`${name}, ${words}`}
            onPointerDown={(event) => down(event, group)}
            onPointerMove={move}
            onPointerUp={up}
            onKeyDown={(event) => key(event, group)}
            className={`absolute left-[40px] flex h-[20px] w-[62px] cursor-ns-resize touch-none items-center gap-1 rounded-sm border px-0.5 text-left text-[10.5px] whitespace-nowrap ${isPicked ? "border-act bg-act-wash" : "border-hair bg-sheet"}`}
            style={{ top: y - 10 }}
          >
            <span
              className="border-hair size-2.5 shrink-0 rounded-full border"
              style={{ background: colourOf(document, group.filament) }}
            />
            <span className="truncate">
              {formatLength(group.height, units)}
              {group.regions.length > 1 && <span className="text-soft">×{group.regions.length}</span>}
            </span>
          </button>
        );
      })}
      {through.length > 0 && (
        <p className="text-soft absolute bottom-1.5 left-2 text-[11px]">{through.length} cut through</p>
      )}
    </section>
  );
}

/** Regions of one height and filament together, the highest first. */
export function grouped(regions: readonly Region[]): Group[] {
  const found = new Map<string, Group>();
  for (const region of regions) {
    if (region.left_out || region.height === "through") continue;
    const like = `${region.height} ${region.filament}`;
    // Named after its first region, so that a tag that is moved stays the same tag and keeps the focus.
    const group = found.get(like) ?? {
      key: region.id,
      regions: [],
      height: region.height,
      filament: region.filament,
    };
    group.regions.push(region);
    found.set(like, group);
  }
  return [...found.values()].sort((a, b) => b.height - a.height);
}

/** Which filament prints at which height above the floor, as far as the regions' tops tell: the highest ones last. */
export function bands(
  groups: readonly Group[],
  floor: number,
): { low: number; high: number; filament: string }[] {
  const raised = groups.filter((g) => g.height > 0).sort((a, b) => a.height - b.height);
  let low = floor;
  return raised.flatMap((g) => {
    const high = floor + g.height;
    if (high <= low) return [];
    const band = { low, high, filament: g.filament };
    low = high;
    return [band];
  });
}

/** Tags that would cover each other moved apart, in their order. */
export function apart<T extends { y: number }>(tags: readonly T[]): T[] {
  let last = -Infinity;
  return [...tags]
    .sort((a, b) => a.y - b.y)
    .map((tag) => {
      const y = Math.max(tag.y, last + TAG);
      last = y;
      return { ...tag, y };
    });
}
