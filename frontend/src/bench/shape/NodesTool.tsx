import { useMemo, useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { type Point } from "../flat/place";
import { NodeSigns } from "../flat/NodeMarks";
import { nodesOf } from "../flat/nodes";
import type { Viewport } from "../flat/viewport";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { contoursOf, nodePlaces, pathOf, withHandle, withMoved, type Contour } from "./contours";
import { Ground, takes } from "./Ground";
import { namesOf, type Item } from "./objects";
import { useShape } from "./state";
import { itemsAt, toSheet, useItems, usePicked, useSnap } from "./useSheet";

/** How near (px) a click must be to a node or handle. */
const REACH = 9;
const CLICK = 3;

type Held = { moved: boolean } & (
  | { kind: "nodes"; contour: number; nodes: readonly number[]; from: Point; to: Point }
  | { kind: "handle"; contour: number; segment: number; handle: 1 | 2; to: Point; linked: boolean }
  | { kind: "box"; from: Point; to: Point; more: boolean }
);

/** More nodes than these are not gone through one by one. */
const MOST_STOPS = 2000;

/** Nodes and handles of the outline that is picked, under the hand. */
export function NodesTool({ flat, view }: { flat: Flat; view: Viewport }) {
  const items = useItems();
  const picked = usePicked();
  const item = picked[0];
  const chosen = useShape((s) => s.nodes);
  const { set } = useShape.getState();
  const { commit, pickAll, setPointer, setTool } = useBench.getState();
  const [held, setHeld] = useState<Held | null>(null);
  const [waiting, setWaiting] = useState<{ flat: Flat; contours: Contour[] } | null>(null);
  const sent = waiting?.flat === flat ? waiting.contours : null;
  const contours = useMemo(() => (item ? contoursOf(item.path) : []), [item]);
  const snap = useSnap(
    flat,
    view,
    useMemo(() => new Set(item ? [item.id] : []), [item]),
  );
  const mine = chosen && item && chosen.id === item.id ? chosen : null;
  useKeys("tool", {
    "put-down": () => (useShape.getState().nodes ? set({ nodes: null }) : setTool(null)),
    "throw-away": () => changeNodes("delete"),
    "take-back": () => changeNodes("delete"),
  });

  const screen = ([x, y]: Point): Point => [view.x + x * view.scale, view.y + y * view.scale];
  const near = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]) * view.scale;
  const nodeAt = (at: Point) => {
    let best: { contour: number; node: number; off: number } | null = null;
    contours.forEach((contour, c) =>
      nodePlaces(contour).forEach((p, n) => {
        const off = near(at, p);
        if (off < REACH && (!best || off < best.off)) best = { contour: c, node: n, off };
      }),
    );
    return best as { contour: number; node: number; off: number } | null;
  };
  const handles = mine ? shownHandles(contours[mine.contour], mine.at) : [];
  const handleAt = (at: Point) => handles.find((h) => near(at, h.at) < REACH);

  const down = (event: PointerEvent<SVGRectElement>) => {
    if (!takes(event)) return;
    const at = toSheet(event, event.currentTarget, view);
    const handle = handleAt(at);
    if (handle && mine) {
      setHeld({
        kind: "handle",
        moved: false,
        contour: mine.contour,
        segment: handle.segment,
        handle: handle.handle,
        to: at,
        linked: !event.altKey,
      });
      return;
    }
    const node = nodeAt(at);
    if (node && item) {
      const same = mine?.contour === node.contour ? mine.at : [];
      const has = same.includes(node.node);
      const nodes = event.shiftKey
        ? has
          ? same.filter((n) => n !== node.node)
          : [...same, node.node]
        : has
          ? same
          : [node.node];
      set({ nodes: nodes.length ? { id: item.id, contour: node.contour, at: nodes } : null });
      setHeld({ kind: "nodes", moved: false, contour: node.contour, nodes, from: at, to: at });
      return;
    }
    setHeld({ kind: "box", moved: false, from: at, to: at, more: event.shiftKey });
  };
  const move = (event: PointerEvent<SVGRectElement>) => {
    const raw = toSheet(event, event.currentTarget, view);
    setPointer({ x: raw[0], y: raw[1] });
    if (!held) return;
    event.stopPropagation();
    const moved = held.moved || held.kind === "handle" || near(held.from, raw) > CLICK;
    const at = held.kind === "box" ? raw : (snap(raw)?.at ?? raw);
    setHeld(
      held.kind === "handle" ? { ...held, moved, to: at, linked: !event.altKey } : { ...held, moved, to: at },
    );
  };
  const up = (event: PointerEvent<SVGRectElement>) => {
    if (!held) return;
    event.stopPropagation();
    setHeld(null);
    if (held.kind === "box") {
      if (held.moved && item) return pickInBox(held, item);
      const other = itemsAt(items, flat, view, toSheet(event, event.currentTarget, view))[0];
      set({ nodes: null });
      if (other && other.id !== item?.id) pickAll(namesOf(other));
      return;
    }
    if (!held.moved || !item) return;
    const shown = changed(contours, held);
    setWaiting({ flat, contours: shown });
    if (held.kind === "nodes")
      commit({
        do: "move-nodes",
        id: item.id,
        contour: held.contour,
        nodes: [...held.nodes],
        by: [held.to[0] - held.from[0], held.to[1] - held.from[1]],
      });
    else
      commit({
        do: "move-handle",
        id: item.id,
        contour: held.contour,
        segment: held.segment,
        handle: held.handle,
        to: [held.to[0], held.to[1]],
        linked: held.linked,
      });
  };
  const pickInBox = (box: { from: Point; to: Point; more: boolean }, of: Item) => {
    const [x0, x1] = [Math.min(box.from[0], box.to[0]), Math.max(box.from[0], box.to[0])];
    const [y0, y1] = [Math.min(box.from[1], box.to[1]), Math.max(box.from[1], box.to[1])];
    const counts = contours.map((contour) =>
      nodePlaces(contour).flatMap((p, n) =>
        p[0] >= x0 && p[0] <= x1 && p[1] >= y0 && p[1] <= y1 ? [n] : [],
      ),
    );
    const best = counts.reduce((a, b, i) => (b.length > (counts[a]?.length ?? 0) ? i : a), 0);
    const at = counts[best] ?? [];
    const before = box.more && mine?.contour === best ? mine.at : [];
    set({ nodes: at.length ? { id: of.id, contour: best, at: [...new Set([...before, ...at])] } : null });
  };

  const shown = held && held.kind !== "box" && held.moved ? changed(contours, held) : (sent ?? contours);
  const marks = nodesOf(pathOf(shown.filter((c) => c.segments.length)));
  const current = mine ? shown[mine.contour] : undefined;
  return (
    <g>
      {item && (held || sent) && (
        <path
          d={pathOf(shown)}
          transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}
          fill="var(--act)"
          fillOpacity={0.1}
          fillRule="evenodd"
          stroke="var(--act)"
          strokeWidth={1.6}
          vectorEffect="non-scaling-stroke"
          pointerEvents="none"
        />
      )}
      <g pointerEvents="none" data-node-count={marks.length}>
        <NodeSigns nodes={marks} view={view} />
        {/* Where the crosshair goes from node to node. */}
        {marks.slice(0, MOST_STOPS).map((node, i) => (
          <circle
            key={i}
            data-node
            cx={view.x + node.x * view.scale}
            cy={view.y + node.y * view.scale}
            r={1}
            fill="none"
          />
        ))}
        {current &&
          shownHandles(current, mine?.at ?? []).map((h) => {
            const [x, y] = screen(h.at);
            const [nx, ny] = screen(h.node);
            return (
              <g key={`${h.segment} ${h.handle}`}>
                <path d={`M${nx} ${ny}L${x} ${y}`} stroke="var(--act)" strokeWidth={1} />
                <circle
                  data-node
                  cx={x}
                  cy={y}
                  r={4.5}
                  fill="var(--sheet)"
                  stroke="var(--act)"
                  strokeWidth={1.5}
                />
              </g>
            );
          })}
        {current &&
          mine?.at.map((n) => {
            const place = nodePlaces(current)[n];
            if (!place) return null;
            const [x, y] = screen(place);
            return (
              <circle key={n} cx={x} cy={y} r={8} fill="var(--act)" fillOpacity={0.22} stroke="var(--act)" />
            );
          })}
      </g>
      {held?.kind === "box" && held.moved && (
        <rect
          x={Math.min(screen(held.from)[0], screen(held.to)[0])}
          y={Math.min(screen(held.from)[1], screen(held.to)[1])}
          width={Math.abs(held.to[0] - held.from[0]) * view.scale}
          height={Math.abs(held.to[1] - held.from[1]) * view.scale}
          fill="var(--act)"
          fillOpacity={0.08}
          stroke="var(--act)"
          strokeDasharray="5 3"
          pointerEvents="none"
        />
      )}
      <Ground
        cursor="cursor-default"
        onPointerDown={down}
        onPointerMove={move}
        onPointerCancel={() => setHeld(null)}
        onPointerUp={up}
        onDoubleClick={(event) => {
          if (!item) return;
          const at = toSheet(event.nativeEvent, event.currentTarget, view);
          commit({ do: "insert-node", id: item.id, at: [at[0], at[1]] });
        }}
      />
    </g>
  );
}

/** Does something with the nodes that are picked. */
export function changeNodes(how: "delete" | "smooth" | "corner" | "line" | "curve" | "open" | "close"): void {
  const { nodes, set } = useShape.getState();
  if (!nodes) return;
  useBench
    .getState()
    .commit({ do: "change-nodes", id: nodes.id, contour: nodes.contour, nodes: [...nodes.at], how });
  if (how === "delete" || how === "open") set({ nodes: null });
}

function changed(contours: readonly Contour[], held: Exclude<Held, { kind: "box" }>): Contour[] {
  return contours.map((contour, i) => {
    if (i !== held.contour) return contour;
    return held.kind === "nodes"
      ? withMoved(contour, new Set(held.nodes), held.to[0] - held.from[0], held.to[1] - held.from[1])
      : withHandle(contour, held.segment, held.handle, held.to, held.linked);
  });
}

function shownHandles(
  contour: Contour | undefined,
  nodes: readonly number[],
): { at: Point; node: Point; segment: number; handle: 1 | 2 }[] {
  if (!contour) return [];
  const count = contour.segments.length;
  return nodes.flatMap((n) => {
    const found: { at: Point; node: Point; segment: number; handle: 1 | 2 }[] = [];
    const out = contour.segments[n];
    if (out && !out.straight) found.push({ at: out.points[1], node: out.points[0], segment: n, handle: 1 });
    const before = contour.closed ? (n - 1 + count) % count : n - 1;
    const into = contour.segments[before];
    if (into && !into.straight)
      found.push({ at: into.points[2], node: into.points[3], segment: before, handle: 2 });
    return found;
  });
}
