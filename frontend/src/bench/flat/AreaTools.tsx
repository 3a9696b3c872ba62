import { useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { freshId } from "../ids";
import { usePicture } from "../select";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { fromScreen, thinned, type Point } from "./place";
import type { Viewport } from "./viewport";

/** A drag shorter than this (px on the screen) is none. */
const LEAST = 8;
/** Points of a line drawn by hand lie at least so far apart (px on the screen). */
const APART = 4;

/** Drawing an area that is traced by itself: a box, or freely. */
export function AreaTools({ view }: { view: Viewport }) {
  const picture = usePicture();
  const tool = useBench((s) => s.tool);
  const { commit, setTool, setArea } = useBench.getState();
  const [points, setPoints] = useState<readonly Point[]>([]);
  const on = tool === "area-box" || tool === "area-free";
  useKeys("tool", { "put-down": () => setTool(null) }, on);
  if (!on) return null;
  const at = (event: PointerEvent): Point => {
    const frame = event.currentTarget.getBoundingClientRect();
    return [event.clientX - frame.left, event.clientY - frame.top];
  };
  const take = () => {
    const [first] = points;
    const last = points.at(-1);
    setPoints([]);
    if (!first || !last) return;
    const corners: Point[] =
      tool === "area-box"
        ? [first, [last[0], first[1]], last, [first[0], last[1]]]
        : thinned(points, APART).slice(0, 1500);
    const across = Math.max(...corners.map((p) => p[0])) - Math.min(...corners.map((p) => p[0]));
    const down = Math.max(...corners.map((p) => p[1])) - Math.min(...corners.map((p) => p[1]));
    if (Math.min(across, down) < LEAST || corners.length < 3) return;
    const id = freshId("a");
    commit({
      do: "add-area",
      picture: picture?.id ?? null,
      id,
      corners: corners.map((p) => fromScreen(p, view)),
    });
    setArea(id);
    setTool(null);
  };
  return (
    <g>
      <rect
        data-area-tool={tool}
        width="100%"
        height="100%"
        fill="transparent"
        className="cursor-crosshair"
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          setPoints([at(event)]);
        }}
        onPointerMove={(event) => {
          if (!points.length) return;
          event.stopPropagation();
          const point = at(event);
          setPoints((p) => (tool === "area-free" ? [...p, point] : [...p.slice(0, 1), point]));
        }}
        onPointerCancel={() => setPoints([])}
        onPointerUp={(event) => {
          event.stopPropagation();
          take();
        }}
      />
      <Drawn box={tool === "area-box"} points={points} />
    </g>
  );
}

function Drawn({ box, points }: { box: boolean; points: readonly Point[] }) {
  const [first] = points;
  const last = points.at(-1);
  if (!first || !last) return null;
  const corners = box ? [first, [last[0], first[1]], last, [first[0], last[1]]] : points;
  return (
    <path
      d={`M${corners.map((p) => p.join(" ")).join("L")}Z`}
      pointerEvents="none"
      fill="var(--act)"
      fillOpacity={0.12}
      stroke="var(--act)"
      strokeWidth={1.5}
    />
  );
}

/** The areas that are traced by themselves, the one that is tuned in a full line. */
export function AreaMarks({ flat }: { flat: Flat }) {
  const current = useBench((s) => s.area);
  const picture = usePicture();
  const own = flat.areas.filter((a) => a.picture === picture?.id);
  const active = own.some((a) => a.id === current) ? current : own[0]?.id;
  return (
    <g fill="none" stroke="var(--act)" pointerEvents="none">
      {flat.areas.map((area) => (
        <path
          key={area.id}
          data-area={area.id}
          d={area.path}
          strokeWidth={area.id === active ? 2 : 1.2}
          strokeDasharray={area.id === active ? undefined : "6 4"}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </g>
  );
}
