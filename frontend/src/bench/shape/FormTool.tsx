import { useEffect, useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useBench } from "../store";
import { Ground, takes } from "./Ground";
import { SnapMark } from "./marks";
import { seed, type NewThing } from "./objects";
import type { Snap } from "./snaps";
import { useShape, type ShapeForm } from "./state";
import { toSheet, useSnap } from "./useSheet";

/** What a click sets, mm; a drag shorter than this (px) is a click. */
const USUAL = 20;
const CLICK = 5;
const WORDS = { text: "Words", height: 10 };

/** Setting a shape or words on the sheet. */
export function FormTool({ flat, view, tool }: { flat: Flat; view: Viewport; tool: "form" | "words" }) {
  const form = useShape((s) => s.form);
  const { setTool, setPointer } = useBench.getState();
  const [from, setFrom] = useState<Point | null>(null);
  const [to, setTo] = useState<{ at: Point; snap: Snap | null } | null>(null);
  const snap = useSnap(flat, view);
  useEffect(() => {
    const key = (event: KeyboardEvent) => event.key === "Escape" && setTool(null);
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [setTool]);
  const aim = (event: PointerEvent<SVGRectElement>) => {
    const raw = toSheet(event, event.currentTarget, view);
    const found = snap(raw);
    return { at: found?.at ?? raw, snap: found };
  };
  const size = from && to ? reach(form, from, to.at) : null;
  return (
    <g>
      {tool === "form" && from && size && (
        <ellipse
          cx={view.x + from[0] * view.scale}
          cy={view.y + from[1] * view.scale}
          rx={(size[0] / 2) * view.scale}
          ry={(size[1] / 2) * view.scale}
          fill="none"
          stroke="var(--act)"
          strokeDasharray="5 3"
          pointerEvents="none"
        />
      )}
      <SnapMark snap={to?.snap ?? null} view={view} />
      <Ground
        cursor="cursor-crosshair"
        onPointerDown={(event) => {
          if (takes(event)) setFrom(aim(event).at);
        }}
        onPointerMove={(event) => {
          const aimed = aim(event);
          setTo(aimed);
          setPointer({ x: aimed.at[0], y: aimed.at[1] });
        }}
        onPointerUp={(event) => {
          if (!from) return;
          event.stopPropagation();
          const end = aim(event).at;
          const dragged = Math.hypot(end[0] - from[0], end[1] - from[1]) * view.scale > CLICK;
          setFrom(null);
          if (tool === "words") putWords(from);
          else putForm(form, from, dragged ? reach(form, from, end) : [USUAL, USUAL]);
        }}
        onPointerLeave={() => setTo(null)}
      />
    </g>
  );
}

function reach(form: ShapeForm, from: Point, to: Point): [number, number] {
  const [x, y] = [2 * Math.abs(to[0] - from[0]), 2 * Math.abs(to[1] - from[1])];
  if (form === "rectangle" || form === "ellipse") return [Math.max(x, 0.5), Math.max(y, 0.5)];
  const wide = Math.max(2 * Math.hypot(to[0] - from[0], to[1] - from[1]), 0.5);
  return [wide, wide];
}

/** Puts a shape with its middle on the sheet (mm), and picks it. */
export function putForm(
  form: ShapeForm,
  at: Point,
  [width, height]: readonly [number, number],
  inner = width * (form === "star" ? 0.45 : 0.75),
): void {
  const thing: NewThing = {
    kind: "shape",
    id: seed(),
    form,
    at: [at[0], at[1]],
    width,
    height,
    inner,
    radius: form === "rectangle" ? Math.min(width, height) / 10 : 0,
    sides: form === "star" ? 5 : 6,
    follow: useBench.getState().piece?.document.symmetry ?? null,
  };
  place(thing);
}

export function putWords(at: Point): void {
  const words = {
    kind: "lettering" as const,
    id: seed(),
    text: WORDS.text,
    font: "font:script",
    at: [at[0], at[1]] as [number, number],
    height: WORDS.height,
    radius: 30,
  };
  useShape.getState().set({ fresh: words });
  place(words);
}

function place(thing: NewThing): void {
  const { commit, pickAll, setTool } = useBench.getState();
  commit({ do: "put-drawn", things: [thing] });
  pickAll([thing.id]);
  setTool(null);
}
