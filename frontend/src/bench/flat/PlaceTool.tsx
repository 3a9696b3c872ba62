import { useState, type PointerEvent } from "react";

import type { Edit, Flat, Underlay } from "../../api/client";
import { underlayOf, usePicture } from "../select";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { fromScreen, onScreen, type Point } from "./place";
import type { Viewport } from "./viewport";

/** Half the side (px) of a corner's handle, and how far over the picture the handle that turns it stands. */
const HANDLE = 6;
const STALK = 26;
/** With Shift a picture is turned by steps of so many degrees. */
const STEP = 15;

type Held = { what: "move" | "turn" | 0 | 1 | 2 | 3; from: Point; at: Underlay };

/** A picture under the hand: dragged, sized by its corners, turned by the knob over it. */
export function PlaceTool({ flat, view }: { flat: Flat; view: Viewport }) {
  const picture = usePicture();
  const { commit, previewEdit, setTool } = useBench.getState();
  const [held, setHeld] = useState<Held | null>(null);
  const [change, setChange] = useState<Place | null>(null);
  useKeys("tool", { "put-down": () => setTool(null) });
  const underlay = underlayOf(flat, picture?.id);
  if (!underlay || !picture || picture.locked) return null;
  const at = (event: PointerEvent): Point => {
    const frame = event.currentTarget.closest("svg")?.getBoundingClientRect();
    return fromScreen([event.clientX - (frame?.left ?? 0), event.clientY - (frame?.top ?? 0)], view);
  };
  const edit = (place: Place): Edit => ({ do: "place-picture", picture: picture.id, place });
  const hold = (what: Held["what"]) => ({
    onPointerDown: (event: PointerEvent) => {
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      setHeld({ what, from: at(event), at: underlay });
    },
    onPointerMove: (event: PointerEvent) => {
      if (!held) return;
      event.stopPropagation();
      const place = placed(held, at(event), event.shiftKey);
      setChange(place);
      previewEdit(edit(place));
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      if (change) commit(edit(change));
      setHeld(null);
      setChange(null);
    },
    onPointerCancel: () => {
      setHeld(null);
      setChange(null);
      useBench.getState().giveUp();
    },
  });
  const corners = cornersOf({ ...underlay, ...change }).map((p) => onScreen(p, view));
  const [a, b] = corners;
  if (!a || !b) return null;
  const top = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const;
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const knob = [top[0] + ((b[1] - a[1]) / long) * STALK, top[1] - ((b[0] - a[0]) / long) * STALK] as const;
  return (
    <g data-place-tool={picture.id}>
      <path
        d={`M${corners.map((p) => p.join(" ")).join("L")}Z`}
        fill="var(--act)"
        fillOpacity={0.04}
        stroke="var(--act)"
        strokeWidth={1.5}
        className="cursor-move"
        {...hold("move")}
      />
      <path
        d={`M${top.join(" ")}L${knob.join(" ")}`}
        stroke="var(--act)"
        strokeWidth={1.5}
        pointerEvents="none"
      />
      <circle
        data-place-handle="turn"
        cx={knob[0]}
        cy={knob[1]}
        r={HANDLE}
        fill="var(--sheet)"
        stroke="var(--act)"
        strokeWidth={2}
        className="cursor-grab"
        {...hold("turn")}
      />
      {corners.map(([x, y], i) => (
        <rect
          key={i}
          data-place-handle={i}
          x={x - HANDLE}
          y={y - HANDLE}
          width={2 * HANDLE}
          height={2 * HANDLE}
          fill="var(--sheet)"
          stroke="var(--act)"
          strokeWidth={2}
          className={i % 2 ? "cursor-nesw-resize" : "cursor-nwse-resize"}
          {...hold(i as 0 | 1 | 2 | 3)}
        />
      ))}
    </g>
  );
}

export type Place = { mm_per_px: number; at: [number, number]; turn: number };

/** The corners of a picture on the sheet, mm, from its first one clockwise. */
function cornersOf({ at: [x, y], mm_per_px, turn, pixels: [w, h] }: Underlay): [number, number][] {
  const angle = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(angle) * mm_per_px, Math.sin(angle) * mm_per_px];
  return [
    [0, 0],
    [w, 0],
    [w, h],
    [0, h],
  ].map(([px = 0, py = 0]) => [x + px * c - py * s, y + px * s + py * c]);
}

/** Where a picture lies when the hand that holds it has gone to a point of the sheet. */
export function placed({ what, from, at }: Held, to: Point, steps: boolean): Place {
  const { mm_per_px, turn } = at;
  if (what === "move")
    return { mm_per_px, turn, at: [at.at[0] + to[0] - from[0], at.at[1] + to[1] - from[1]] };
  const corners = cornersOf(at);
  if (what === "turn") {
    const middle = corners.reduce((sum, [x, y]) => [sum[0] + x / 4, sum[1] + y / 4], [0, 0] as [
      number,
      number,
    ]);
    const by =
      Math.atan2(to[1] - middle[1], to[0] - middle[0]) - Math.atan2(from[1] - middle[1], from[0] - middle[0]);
    const free = turn + (by * 180) / Math.PI;
    return turned(at, middle, steps ? Math.round(free / STEP) * STEP : free);
  }
  // The corner across stays.
  const fixed = corners[(what + 2) % 4] ?? at.at;
  const own = corners[what] ?? at.at;
  const before = Math.hypot(own[0] - fixed[0], own[1] - fixed[1]);
  // What counts is how far the hand went along the diagonal.
  const along =
    ((to[0] - fixed[0]) * (own[0] - fixed[0]) + (to[1] - fixed[1]) * (own[1] - fixed[1])) / before;
  return sized(at, fixed, Math.max(along / before, 0.01));
}

/** A picture turned to so many degrees about a point of the sheet. */
export function turned(at: Underlay, [cx, cy]: Point, turn: number): Place {
  const by = ((turn - at.turn) * Math.PI) / 180;
  const [dx, dy] = [at.at[0] - cx, at.at[1] - cy];
  const [c, s] = [Math.cos(by), Math.sin(by)];
  const whole = ((((turn + 180) % 360) + 360) % 360) - 180;
  return { mm_per_px: at.mm_per_px, turn: whole, at: [cx + dx * c - dy * s, cy + dx * s + dy * c] };
}

/** A picture grown by a factor about a point of the sheet. */
export function sized(at: Underlay, [cx, cy]: Point, by: number): Place {
  return {
    mm_per_px: at.mm_per_px * by,
    turn: at.turn,
    at: [cx + (at.at[0] - cx) * by, cy + (at.at[1] - cy) * by],
  };
}
