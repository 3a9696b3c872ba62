import { useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { Ground, takes } from "./Ground";
import { SnapMark } from "./marks";
import { dragged, NOTCH, POINTS, putForm, SIDES, type Extent } from "./forms";
import { seed } from "./objects";
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
  const [to, setTo] = useState<{ extent: Extent | null; snap: Snap | null } | null>(null);
  const snap = useSnap(flat, view);
  useKeys("tool", { "put-down": () => setTool(null) });
  const aim = (event: PointerEvent<SVGRectElement>) => {
    const raw = toSheet(event, event.currentTarget, view);
    const found = snap(raw);
    return { at: found?.at ?? raw, snap: found };
  };
  const how = (event: PointerEvent) => ({ middle: event.altKey, even: event.shiftKey });
  return (
    <g>
      {tool === "form" && from && to && <Preview form={form} extent={to.extent} view={view} />}
      <SnapMark snap={to?.snap ?? null} view={view} />
      <Ground
        cursor="cursor-crosshair"
        onPointerDown={(event) => {
          if (takes(event)) setFrom(aim(event).at);
        }}
        onPointerMove={(event) => {
          const aimed = aim(event);
          setTo({ extent: from && dragged(form, from, aimed.at, how(event)), snap: aimed.snap });
          setPointer({ x: aimed.at[0], y: aimed.at[1] });
        }}
        onPointerCancel={() => {
          setFrom(null);
          setTo(null);
        }}
        onPointerUp={(event) => {
          if (!from) return;
          event.stopPropagation();
          const end = aim(event).at;
          const far = Math.hypot(end[0] - from[0], end[1] - from[1]) * view.scale > CLICK;
          setFrom(null);
          if (tool === "words") putWords(from);
          else
            putForm(
              form,
              far ? dragged(form, from, end, how(event)) : { at: from, width: USUAL, height: USUAL },
            );
        }}
        onPointerLeave={() => setTo(null)}
      />
    </g>
  );
}

/** What is being dragged out, as it will be. */
function Preview({ form, extent, view }: { form: ShapeForm; extent: Extent | null; view: Viewport }) {
  if (!extent) return null;
  const [x, y] = [view.x + extent.at[0] * view.scale, view.y + extent.at[1] * view.scale];
  const [rx, ry] = [(extent.width / 2) * view.scale, (extent.height / 2) * view.scale];
  const look = {
    fill: "var(--act)",
    fillOpacity: 0.08,
    stroke: "var(--act)",
    strokeDasharray: "5 3",
    pointerEvents: "none",
  } as const;
  if (form === "rectangle") return <rect x={x - rx} y={y - ry} width={2 * rx} height={2 * ry} {...look} />;
  if (form === "polygon" || form === "star") {
    const count = form === "star" ? 2 * POINTS : SIDES;
    const corners = Array.from({ length: count }, (_, i) => {
      const angle = Math.PI / 2 + (i * 2 * Math.PI) / count;
      const far = form === "star" && i % 2 ? NOTCH : 1;
      return `${x + rx * far * Math.cos(angle)},${y - ry * far * Math.sin(angle)}`;
    });
    return <polygon points={corners.join(" ")} {...look} />;
  }
  return <ellipse cx={x} cy={y} rx={rx} ry={ry} {...look} />;
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
  const { commit, pickAll, setTool } = useBench.getState();
  commit({ do: "put-drawn", things: [words] });
  pickAll([words.id]);
  setTool(null);
}
