import { useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { colourOnSheet } from "../flat/colourPick";
import { type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import type { SheetTool } from "../tools";
import { Ground, takes } from "./Ground";
import { SnapMark } from "./marks";
import { idsOf, namesOf, seed, type Item } from "./objects";
import { pour } from "./pouring";
import type { Snap } from "./snaps";
import { useShape } from "./state";
import { itemsAt, toSheet, useItems, usePicked, useSnap } from "./useSheet";

type ClickTool = Exclude<SheetTool, "nodes" | "ease" | "line" | "form" | "words">;

/** Tools that take one click. */
const SINGLE: readonly ClickTool[] = ["trim", "pour", "loop", "turn-centre", "fill-colour"];

/** Tools that work by one or two clicks. */
export function ClicksTool({ flat, view, tool }: { flat: Flat; view: Viewport; tool: ClickTool }) {
  const items = useItems();
  const picked = usePicked();
  const { setTool, setPointer } = useBench.getState();
  const [first, setFirst] = useState<{ at: Point; item: Item | undefined } | null>(null);
  const [aimed, setAimed] = useState<{ at: Point; snap: Snap | null } | null>(null);
  const snap = useSnap(flat, view);
  useKeys("tool", { "put-down": () => (first ? setFirst(null) : setTool(null)) });
  const aim = (event: PointerEvent<SVGRectElement>) => {
    const raw = toSheet(event, event.currentTarget, view);
    const found = tool === "pour" || tool === "trim" || tool === "fill-colour" ? null : snap(raw);
    return { at: found?.at ?? raw, snap: found };
  };
  const click = (at: Point, item: Item | undefined) => {
    if (SINGLE.includes(tool)) return single(tool, at, item, picked, items);
    if (!first) return setFirst({ at, item: item ?? nearest(items, at) });
    setFirst(null);
    double(tool, first.at, at, first.item, picked, items);
  };
  return (
    <g>
      {first && aimed && (
        <path
          d={`M${view.x + first.at[0] * view.scale} ${view.y + first.at[1] * view.scale}L${view.x + aimed.at[0] * view.scale} ${view.y + aimed.at[1] * view.scale}`}
          stroke="var(--act)"
          strokeWidth={2}
          strokeDasharray="6 4"
          pointerEvents="none"
        />
      )}
      <SnapMark snap={aimed?.snap ?? null} view={view} />
      <Ground
        cursor="cursor-crosshair"
        onPointerDown={(event) => void takes(event)}
        onPointerMove={(event) => {
          const next = aim(event);
          setAimed(next);
          setPointer({ x: next.at[0], y: next.at[1] });
        }}
        onPointerUp={(event) => {
          if (event.button !== 0) return;
          event.stopPropagation();
          const at = toSheet(event, event.currentTarget, view);
          click(aim(event).at, itemsAt(items, flat, view, at)[0]);
        }}
        onPointerLeave={() => setAimed(null)}
      />
    </g>
  );
}

/** The item whose outline's box lies nearest to a place. */
function nearest(items: readonly Item[], [x, y]: Point): Item | undefined {
  const off = ({ box: [bx, by, w, h] }: Item) =>
    Math.hypot(Math.max(bx - x, 0, x - bx - w), Math.max(by - y, 0, y - by - h));
  return [...items].sort((a, b) => off(a) - off(b) || a.box[2] * a.box[3] - b.box[2] * b.box[3])[0];
}

function single(
  tool: ClickTool,
  at: Point,
  item: Item | undefined,
  picked: readonly Item[],
  items: readonly Item[],
): void {
  const { commit, setTool, piece } = useBench.getState();
  const { gap, loop } = useShape.getState();
  const spot: [number, number] = [at[0], at[1]];
  if (tool === "trim") {
    // What was clicked, whatever is picked.
    const target = item ?? nearest(items, at);
    if (target) commit({ do: "trim", seed: seed(), id: target.id, at: spot });
  } else if (tool === "pour") {
    void pour(spot, gap);
  } else if (tool === "fill-colour") {
    const ids = picked.filter((i) => i.thing).map((i) => i.id);
    setTool(null);
    void colourOnSheet(spot).then((fill) => {
      if (fill && ids.length) commit({ do: "mark-drawn", ids, fill });
    });
  } else if (tool === "loop") {
    const target = picked[0] ?? item ?? nearest(items, at);
    if (!target) return;
    commit({ do: "loop", seed: seed(), id: target.id, at: spot, ...loop });
    setTool(null);
  } else if (piece) {
    const count = piece.document.symmetry?.count ?? 6;
    commit({
      do: "set-symmetry",
      symmetry: { kind: "turn", at: spot, angle: 90, count: Math.max(count, 3) },
    });
    setTool(null);
  }
}

function double(
  tool: ClickTool,
  a: Point,
  b: Point,
  item: Item | undefined,
  picked: readonly Item[],
  items: readonly Item[],
): void {
  const { commit, setTool, piece, pickAll } = useBench.getState();
  const { tieWidth, set } = useShape.getState();
  const one: [number, number] = [a[0], a[1]];
  const other: [number, number] = [b[0], b[1]];
  const target = picked[0] ?? item;
  if (tool === "measure") {
    set({ measured: [a, b] });
  } else if (tool === "straighten" || tool === "arc") {
    if (target) {
      commit({ do: "stretch", id: target.id, start: one, end: other, how: tool === "arc" ? "arc" : "line" });
      pickAll(namesOf(target));
    }
  } else if (tool === "tie") {
    const parts = picked.length > 1 ? picked : items.filter((i) => i.area > 0);
    commit({ do: "tie", seed: seed(), picked: idsOf(parts), width: tieWidth, links: [[one, other]] });
  } else if (tool === "mirror-line" && piece) {
    const angle = (Math.atan2(other[1] - one[1], other[0] - one[0]) * 180) / Math.PI;
    commit({ do: "set-symmetry", symmetry: { kind: "mirror", at: one, angle, count: 2 } });
    setTool(null);
  } else if (tool === "level-two" && picked.length) {
    const angle = -Math.atan2(other[1] - one[1], other[0] - one[0]);
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const [x, y] = one;
    commit({
      do: "transform",
      seed: seed(),
      picked: idsOf(picked),
      matrix: [c, s, -s, c, x - c * x + s * y, y - s * x - c * y],
      copies: 0,
    });
    setTool(null);
  }
}
