import { useMemo, useRef, useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import type { Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useBench } from "../store";
import { along, contoursOf } from "./contours";
import { Ground, takes } from "./Ground";
import { boxOf, idsOf, namesOf, pickedItems, seed, withGroup, type Box, type Item } from "./objects";
import { itemsAt, toSheet, useItems, usePicked, useSnap } from "./useSheet";

/** A press that moves less than this (px) is a click. */
const CLICK = 4;
/** More outlines than this are shown by their box while they are dragged. */
const MOST_DRAGGED = 400;

type Drag = { from: Point; to: Point; kind: "move" | "box"; more: boolean; inside: boolean };

/** Picking, boxes, and dragging what is picked. */
export function PickTool({ flat, view }: { flat: Flat; view: Viewport }) {
  const items = useItems();
  const picked = usePicked();
  const { pickAll, setHover, setPointer, setHint, commit } = useBench.getState();
  const [drag, setDrag] = useState<Drag | null>(null);
  const press = useRef<{ at: Point; hit: readonly Item[]; moved: boolean } | null>(null);
  const last = useRef<{ at: Point; depth: number } | null>(null);
  const skip = useMemo(() => new Set(idsOf(picked)), [picked]);
  const snap = useSnap(flat, view, skip);
  /** The way that was dragged stays until the new flat view is there. */
  const [sent, setSent] = useState<{ flat: Flat; way: Point } | null>(null);
  const sentWay = sent?.flat === flat ? sent.way : null;

  const hits = (event: PointerEvent<SVGRectElement>): Item[] =>
    itemsAt(items, flat, view, toSheet(event, event.currentTarget, view));
  const settled = (way: Point): Point => {
    const box = boxOf(picked);
    if (!box) return way;
    const corners: Point[] = [0, 0.5, 1].flatMap((x) =>
      [0, 0.5, 1].map((y): Point => [box.x + box.width * x, box.y + box.height * y]),
    );
    for (const corner of corners) {
      const found = snap([corner[0] + way[0], corner[1] + way[1]]);
      if (found) return [found.at[0] - corner[0], found.at[1] - corner[1]];
    }
    return way;
  };
  const way: Point | null =
    drag?.kind === "move" ? settled([drag.to[0] - drag.from[0], drag.to[1] - drag.from[1]]) : sentWay;

  const down = (event: PointerEvent<SVGRectElement>) => {
    if (!takes(event)) return;
    press.current = { at: toSheet(event, event.currentTarget, view), hit: hits(event), moved: false };
  };
  const move = (event: PointerEvent<SVGRectElement>) => {
    const at = toSheet(event, event.currentTarget, view);
    setPointer({ x: at[0], y: at[1] });
    const from = press.current;
    if (!from) {
      // With another button held the sheet is being moved.
      if (!event.buttons) setHover(hits(event)[0]?.ids.at(-1) ?? null);
      return;
    }
    event.stopPropagation();
    const far = Math.hypot(at[0] - from.at[0], at[1] - from.at[1]) * view.scale;
    if (!from.moved && far < CLICK) return;
    if (!from.moved) {
      from.moved = true;
      const hit = from.hit[0];
      if (hit && !picked.some((p) => p.id === hit.id)) choose([hit], event.shiftKey);
    }
    const kind = from.hit.length ? "move" : "box";
    setHint(
      kind === "box"
        ? event.altKey
          ? "Picks what lies wholly inside the box."
          : "Picks what the box touches; hold Alt for what lies wholly inside."
        : null,
    );
    setDrag({ from: from.at, to: at, kind, more: event.shiftKey, inside: event.altKey });
  };
  const choose = (chosen: readonly Item[], more: boolean) => {
    const all = chosen.flatMap((i) => withGroup(items, i));
    const names = all.flatMap(namesOf);
    if (!more) return pickAll(names);
    const before = useBench.getState().picked;
    const every = all.length > 0 && names.every((n) => before.includes(n));
    pickAll(every ? before.filter((n) => !names.includes(n)) : [...new Set([...before, ...names])]);
  };
  const up = (event: PointerEvent<SVGRectElement>) => {
    const from = press.current;
    press.current = null;
    if (!from) return;
    event.stopPropagation();
    setHint(null);
    if (!from.moved) {
      // The same place clicked again goes through to what lies beneath.
      const same =
        last.current &&
        Math.hypot(last.current.at[0] - from.at[0], last.current.at[1] - from.at[1]) * view.scale < CLICK;
      const depth = same && from.hit.length > 1 ? ((last.current?.depth ?? 0) + 1) % from.hit.length : 0;
      last.current = { at: from.at, depth };
      const hit = from.hit[depth];
      if (hit) choose([hit], event.shiftKey || event.ctrlKey || event.metaKey);
      else if (!event.shiftKey) pickAll([]);
    } else if (drag?.kind === "box") {
      choose(inBox(items, drag), drag.more);
    } else if (drag && way) {
      const now = pickedItems(items, useBench.getState().picked);
      setSent({ flat, way });
      if (now.length && (way[0] || way[1]))
        commit({
          do: "transform",
          seed: seed(),
          picked: idsOf(now),
          matrix: [1, 0, 0, 1, way[0], way[1]],
          copies: event.ctrlKey || event.metaKey ? 1 : 0,
        });
    }
    setDrag(null);
  };
  const [x0, y0] = drag ? [Math.min(drag.from[0], drag.to[0]), Math.min(drag.from[1], drag.to[1])] : [0, 0];
  return (
    <g>
      {way && (
        <g
          pointerEvents="none"
          transform={`translate(${view.x + way[0] * view.scale} ${view.y + way[1] * view.scale}) scale(${view.scale})`}
        >
          {picked.length > MOST_DRAGGED && <BoxMark box={boxOf(picked)} />}
          {picked.slice(0, picked.length > MOST_DRAGGED ? 0 : MOST_DRAGGED).map((item) => (
            <path
              key={item.id}
              d={item.path}
              fill="var(--act)"
              fillOpacity={0.15}
              fillRule="evenodd"
              stroke="var(--act)"
              strokeWidth={1.5}
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </g>
      )}
      {drag?.kind === "box" && (
        <rect
          x={view.x + x0 * view.scale}
          y={view.y + y0 * view.scale}
          width={Math.abs(drag.to[0] - drag.from[0]) * view.scale}
          height={Math.abs(drag.to[1] - drag.from[1]) * view.scale}
          fill="var(--act)"
          fillOpacity={0.08}
          stroke="var(--act)"
          strokeDasharray={drag.inside ? undefined : "5 3"}
          pointerEvents="none"
        />
      )}
      <Ground
        cursor="cursor-default"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          press.current = null;
          setDrag(null);
        }}
      />
    </g>
  );
}

function BoxMark({ box }: { box: Box | null }) {
  if (!box) return null;
  return (
    <rect
      {...box}
      fill="var(--act)"
      fillOpacity={0.12}
      stroke="var(--act)"
      strokeWidth={1.5}
      vectorEffect="non-scaling-stroke"
    />
  );
}

function inBox(items: readonly Item[], { from, to, inside }: Drag): Item[] {
  const [x0, x1] = [Math.min(from[0], to[0]), Math.max(from[0], to[0])];
  const [y0, y1] = [Math.min(from[1], to[1]), Math.max(from[1], to[1])];
  return items.filter((item) => {
    if (item.thing?.locked) return false;
    const [x, y, w, h] = item.box;
    if (x >= x0 && y >= y0 && x + w <= x1 && y + h <= y1) return true;
    if (inside || x > x1 || y > y1 || x + w < x0 || y + h < y0) return false;
    return along(contoursOf(item.path)).some((line) =>
      line.some((p, i) => crosses(line[i - 1] ?? p, p, x0, y0, x1, y1)),
    );
  });
}

/** Whether a short line comes into a box: its ends or its middle thirds. */
function crosses(a: Point, b: Point, x0: number, y0: number, x1: number, y1: number): boolean {
  let [low, high] = [0, 1];
  for (const [start, way, least, most] of [
    [a[0], b[0] - a[0], x0, x1],
    [a[1], b[1] - a[1], y0, y1],
  ] as const) {
    if (way === 0) {
      if (start < least || start > most) return false;
      continue;
    }
    const [t0, t1] = [(least - start) / way, (most - start) / way];
    low = Math.max(low, Math.min(t0, t1));
    high = Math.min(high, Math.max(t0, t1));
  }
  return low <= high;
}
