import { useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { thinned, type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { Ground, takes } from "./Ground";
import { along, contoursOf } from "./contours";
import { namesOf, type Item } from "./objects";
import { onLine } from "./snaps";
import { useShape } from "./state";
import { toSheet, useItems, usePicked } from "./useSheet";

/** A brush that calms the stretch it is rubbed along. */
export function BrushTool({ flat, view }: { flat: Flat; view: Viewport }) {
  const items = useItems();
  const picked = usePicked();
  const brush = useShape((s) => s.brush);
  const { commit, setTool, pickAll, setPointer } = useBench.getState();
  const [rubbed, setRubbed] = useState<{ flat: Flat; points: Point[] } | null>(null);
  const line = rubbed?.flat === flat ? rubbed.points : [];
  const setLine = (points: Point[]) => setRubbed({ flat, points });
  const [at, setAt] = useState<Point | null>(null);
  const [rubbing, setRubbing] = useState(false);
  useKeys("tool", { "put-down": () => setTool(null) });
  const up = (event: PointerEvent<SVGRectElement>) => {
    if (!rubbing) return;
    event.stopPropagation();
    setRubbing(false);
    const points = thinned(line, Math.max(brush.radius / 4, 0.05)).slice(0, 3900);
    const item =
      under(picked.length ? picked : items, points, brush.radius) ?? under(items, points, brush.radius);
    if (!item || !points.length) {
      setLine([]);
      return;
    }
    if (!picked.some((p) => p.id === item.id)) pickAll(namesOf(item));
    commit({ do: "ease", id: item.id, points: points.map((p) => [p[0], p[1]]), ...brush });
  };
  const radius = brush.radius * view.scale;
  return (
    <g>
      {line.length > 0 && (
        <polyline
          points={line.map(([x, y]) => `${view.x + x * view.scale},${view.y + y * view.scale}`).join(" ")}
          fill="none"
          stroke="var(--act)"
          strokeOpacity={0.22}
          strokeWidth={2 * radius}
          strokeLinecap="round"
          strokeLinejoin="round"
          pointerEvents="none"
        />
      )}
      {at && (
        <circle
          cx={view.x + at[0] * view.scale}
          cy={view.y + at[1] * view.scale}
          r={radius}
          fill="none"
          stroke="var(--act)"
          strokeWidth={1.5}
          pointerEvents="none"
        />
      )}
      <Ground
        cursor="cursor-none"
        onPointerDown={(event) => {
          if (!takes(event)) return;
          setRubbing(true);
          setLine([toSheet(event, event.currentTarget, view)]);
        }}
        onPointerMove={(event) => {
          const point = toSheet(event, event.currentTarget, view);
          setAt(point);
          setPointer({ x: point[0], y: point[1] });
          if (!rubbing) return;
          event.stopPropagation();
          setLine([...line, point]);
        }}
        onPointerCancel={() => {
          setRubbing(false);
          setLine([]);
        }}
        onPointerUp={up}
        onPointerLeave={() => setAt(null)}
      />
    </g>
  );
}

/** The item that a rubbed line runs along most. */
function under(items: readonly Item[], line: readonly Point[], radius: number): Item | undefined {
  let best: Item | undefined;
  let most = 0;
  for (const item of items) {
    const [x, y, w, h] = item.box;
    const lines = along(contoursOf(item.path));
    let count = 0;
    for (const p of line) {
      if (p[0] < x - radius || p[0] > x + w + radius || p[1] < y - radius || p[1] > y + h + radius) continue;
      if (lines.some((l) => l.some((b, i) => i > 0 && far(p, onLine(p, l[i - 1] ?? b, b)) < radius))) count++;
    }
    if (count > most) {
      most = count;
      best = item;
    }
  }
  return best;
}

const far = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]);
