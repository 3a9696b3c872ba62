import { useEffect, useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useDocument } from "../select";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { Ground, takes } from "./Ground";
import { seed, type NewThing, type Thing } from "./objects";
import { SnapMark } from "./marks";
import { stepped, turnedTo, type Snap } from "./snaps";
import { useShape, type LineKind } from "./state";
import { toSheet, useSnap } from "./useSheet";

/** How near (px) a click must be to an end to go on from it. */
const REACH = 10;
const STEP = 15;

type DrawnLine = Extract<NewThing, { kind: "line" }>;

/** Drawing a line click by click; what was clicked is kept at once, so that nothing is lost. */
export function LineTool({ flat, view }: { flat: Flat; view: Viewport }) {
  const document = useDocument();
  const drawing = useShape((s) => s.drawing);
  const hand = useShape((s) => s.hand);
  const kind = useShape((s) => s.lineKind);
  const { set } = useShape.getState();
  const { setTool, setPointer } = useBench.getState();
  const [pointer, setPointerAt] = useState<{ at: Point; snap: Snap | null } | null>(null);
  const start = useShape((s) => s.begin);
  const ghost = useShape((s) => s.ghost);
  const snap = useSnap(flat, view);
  const line = useLine();
  const tip: Point | null = line ? lastOf(line) : start;
  const shownTip = tip;
  const first = line ? (line.start as Point) : start;

  useKeys("tool", {
    "put-down": () => (drawing || start ? leaveLine() : setTool(null)),
    "close-line": () => (line ? closeLine() : false),
    "take-back": () => (line ? takeBack() : false),
  });
  // A line that was undone away is not gone on with.
  useEffect(() => {
    if (drawing && document && !document.drawn.some((t) => t.id === drawing) && !useBench.getState().draft)
      set({ drawing: null });
  }, [drawing, document, set]);

  const aim = (event: PointerEvent<SVGRectElement>): { at: Point; snap: Snap | null } => {
    const raw = toSheet(event, event.currentTarget, view);
    const along = useShape.getState().along;
    if (shownTip && along !== null) return { at: turnedTo(shownTip, raw, along), snap: null };
    if (shownTip && event.shiftKey) return { at: stepped(shownTip, raw, STEP), snap: null };
    const found = snap(raw);
    return { at: found?.at ?? raw, snap: found };
  };
  const near = (a: Point, b: Point | null) => b && Math.hypot(a[0] - b[0], a[1] - b[1]) * view.scale < REACH;

  const click = (at: Point) => {
    if (!tip) {
      const open = openEnd(document?.drawn ?? [], at, view);
      if (open) {
        set({ drawing: open });
        return;
      }
      set({ begin: at });
      return;
    }
    if (line && near(at, first)) return closeLine();
    addPoint([at[0], at[1]], kind);
  };
  return (
    <g>
      {shownTip && pointer && (
        <path
          d={`M${px(shownTip, view)}L${px(pointer.at, view)}`}
          stroke="var(--act)"
          strokeWidth={1.6}
          strokeDasharray={kind === "straight" ? undefined : "4 4"}
          pointerEvents="none"
        />
      )}
      {shownTip && ghost && (
        <g pointerEvents="none" data-ghost>
          <path
            d={`M${px(shownTip, view)}L${px(ghost, view)}`}
            stroke="var(--remark)"
            strokeWidth={2}
            strokeDasharray="6 4"
          />
          <circle
            cx={view.x + ghost[0] * view.scale}
            cy={view.y + ghost[1] * view.scale}
            r={4}
            fill="var(--remark)"
          />
        </g>
      )}
      {first && (
        <circle
          cx={view.x + first[0] * view.scale}
          cy={view.y + first[1] * view.scale}
          r={6}
          fill="var(--sheet)"
          stroke="var(--act)"
          strokeWidth={2}
          pointerEvents="none"
        />
      )}
      {line && line === hand && (
        <polyline
          points={[line.start, ...line.stretches.map(({ to }) => to)]
            .map((p) => px(p as Point, view))
            .join(" ")}
          fill="none"
          stroke="var(--act)"
          strokeWidth={1.2}
          strokeOpacity={0.6}
          pointerEvents="none"
        />
      )}
      {line?.stretches.map(({ to }, i) => {
        const [x, y] = to as Point;
        return (
          <circle
            key={i}
            cx={view.x + x * view.scale}
            cy={view.y + y * view.scale}
            r={3}
            fill="var(--act)"
            pointerEvents="none"
          />
        );
      })}
      <SnapMark snap={pointer?.snap ?? null} view={view} />
      <Ground
        cursor="cursor-crosshair"
        onPointerDown={(event) => void takes(event)}
        onPointerMove={(event) => {
          const aimed = aim(event);
          setPointerAt(aimed);
          setPointer({ x: aimed.at[0], y: aimed.at[1] });
        }}
        onPointerUp={(event) => {
          if (event.button !== 0) return;
          event.stopPropagation();
          click(aim(event).at);
        }}
        onPointerCancel={() => setPointerAt(null)}
        onPointerLeave={() => setPointerAt(null)}
      />
    </g>
  );
}

const px = ([x, y]: Point, view: Viewport) => `${view.x + x * view.scale} ${view.y + y * view.scale}`;

function lastOf(line: DrawnLine): Point {
  return (line.stretches.at(-1)?.to ?? line.start) as Point;
}

/** The line that is drawn, as the hand left it: what is on its way to the server counts. */
export function useLine(): DrawnLine | undefined {
  const pending = useBench((s) => s.draft !== null);
  const things = useBench((s) => s.piece?.document.drawn);
  const drawing = useShape((s) => s.drawing);
  const hand = useShape((s) => s.hand);
  return lineOf(things, drawing, pending ? hand : null);
}

function lineOf(
  things: readonly Thing[] | undefined,
  drawing: string | null,
  hand: DrawnLine | null,
): DrawnLine | undefined {
  if (hand && hand.id === drawing) return hand;
  return things?.find((t): t is Extract<Thing, { kind: "line" }> => t.id === drawing && t.kind === "line");
}

function current(): DrawnLine | undefined {
  const { piece, draft } = useBench.getState();
  const { drawing, hand } = useShape.getState();
  return lineOf(piece?.document.drawn, drawing, draft ? hand : null);
}

/** Keeps the line as the hand left it, and makes it so in the piece. */
function keep(line: DrawnLine): void {
  useShape.getState().set({ hand: line });
  useBench.getState().commit({ do: "put-drawn", things: [line] });
}

/** Adds a point (mm on the sheet) to the line that is drawn, or begins one at where it was begun. */
export function addPoint(to: Point, kind: LineKind): void {
  const before = current();
  const start = useShape.getState().begin;
  const stretch = { kind, to: [to[0], to[1]] as [number, number] };
  if (before) return keep({ ...before, stretches: [...before.stretches, stretch] });
  if (!start) return;
  const id = seed();
  useShape.getState().set({ drawing: id, begin: null });
  keep({
    kind: "line",
    id,
    start: [start[0], start[1]],
    stretches: [stretch],
    follow: useBench.getState().piece?.document.symmetry ?? null,
  });
}

export function closeLine(): void {
  const line = current();
  if (!line) return;
  keep({ ...line, closed: true });
  leaveLine();
}

/** The line stays as it is; the next click begins another or goes on at an end. What was drawn is picked. */
export function leaveLine(): void {
  const { drawing, set } = useShape.getState();
  if (drawing) useBench.getState().pickAll([drawing]);
  set({ drawing: null, begin: null, along: null, ghost: null });
}

/** Where the line that is drawn goes on from. */
export function useTip(): Point | null {
  const line = useLine();
  const begin = useShape((s) => s.begin);
  return line ? lastOf(line) : begin;
}

function takeBack(): void {
  const line = current();
  if (!line) return;
  if (line.stretches.length === 1) {
    useBench.getState().commit({ do: "remove", picked: [line.id] });
    useShape.getState().set({ drawing: null });
  } else keep({ ...line, stretches: line.stretches.slice(0, -1) });
}

/** The open line whose end lies under a click. */
function openEnd(things: readonly Thing[], at: Point, view: Viewport): string | null {
  for (const thing of things) {
    if (thing.kind !== "line" || thing.closed) continue;
    const end = lastOf(thing);
    if (Math.hypot(end[0] - at[0], end[1] - at[1]) * view.scale < REACH) return thing.id;
  }
  return null;
}
