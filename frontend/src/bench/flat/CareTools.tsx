import { useState, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { careEdit } from "../care";
import { underlayOf, usePicture } from "../select";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { fromScreen, inPicture, type Point } from "./place";
import type { Viewport } from "./viewport";

/** Half the width (px on the screen) of what rubs out. */
const RUBBER = 9;
/** A drag shorter than this (px on the screen) is none. */
const LEAST = 6;

/** What the hand does to the picture in Gather: draw a box, a line, four corners, or rub. */
export function CareTools({ flat, view }: { flat: Flat; view: Viewport }) {
  const tool = useBench((s) => s.tool);
  const picture = usePicture();
  const { commit, setTool, setMeasured } = useBench.getState();
  const [points, setPoints] = useState<readonly Point[]>([]);
  const [pressed, setPressed] = useState(false);

  useKeys(
    "tool",
    {
      "put-down": () => setTool(null),
      "take-back": () => setPoints((p) => p.slice(0, -1)),
    },
    tool !== null,
  );

  const underlay = underlayOf(flat, picture?.id);
  if (!tool || !underlay || !picture) return null;
  const at = (event: PointerEvent): Point => {
    const frame = event.currentTarget.getBoundingClientRect();
    return [event.clientX - frame.left, event.clientY - frame.top];
  };
  // Steps are written in px of the picture as the steps before leave it.
  const px = (point: Point): [number, number] => inPicture(fromScreen(point, view), underlay);
  const take = (done: readonly Point[]) => {
    const first = done[0];
    const last = done.at(-1);
    setPoints([]);
    if (!first || !last) return;
    const far = Math.hypot(last[0] - first[0], last[1] - first[1]) > LEAST;
    const [ax, ay] = px(first);
    const [bx, by] = px(last);
    if (tool === "crop" && far)
      commit(
        careEdit(picture, {
          do: "crop",
          box: [Math.min(ax, bx), Math.min(ay, by), Math.abs(bx - ax), Math.abs(by - ay)],
        }),
      );
    else if (tool === "level" && far)
      commit(careEdit(picture, { do: "level", start: [ax, ay], end: [bx, by] }));
    else if (tool === "measure" && far) setMeasured([fromScreen(first, view), fromScreen(last, view)]);
    else if (tool === "rub")
      commit(
        careEdit(picture, {
          do: "rub",
          points: done.map(px),
          radius: RUBBER / view.scale / underlay.mm_per_px,
        }),
      );
    else return;
    if (tool !== "rub") setTool(null);
  };
  const corner = (point: Point) => {
    const all = [...points, point];
    const [a, b, c, d] = all.map(px);
    if (!a || !b || !c || !d) return setPoints(all);
    commit(careEdit(picture, { do: "flatten", corners: [a, b, c, d] }));
    setTool(null);
  };
  return (
    <g>
      <rect
        data-care={tool}
        width="100%"
        height="100%"
        fill="transparent"
        className="cursor-crosshair"
        onPointerDown={(event) => {
          event.stopPropagation();
          if (tool === "flatten") return;
          event.currentTarget.setPointerCapture(event.pointerId);
          setPressed(true);
          setPoints([at(event)]);
        }}
        onPointerMove={(event) => {
          if (!pressed) return;
          event.stopPropagation();
          const point = at(event);
          setPoints((p) => (tool === "rub" ? [...p, point] : [...p.slice(0, 1), point]));
        }}
        onPointerCancel={() => {
          setPressed(false);
          setPoints([]);
        }}
        onPointerUp={(event) => {
          event.stopPropagation();
          if (tool === "flatten") return corner(at(event));
          setPressed(false);
          take(points);
        }}
      />
      <Drawn tool={tool} points={points} />
    </g>
  );
}

function Drawn({ tool, points }: { tool: string; points: readonly Point[] }) {
  const [first] = points;
  const last = points.at(-1);
  if (!first || !last) return null;
  const line = points.map((p) => p.join(" ")).join("L");
  return (
    <g pointerEvents="none" fill="none" stroke="var(--act)" strokeWidth={2}>
      {tool === "crop" ? (
        <rect
          x={Math.min(first[0], last[0])}
          y={Math.min(first[1], last[1])}
          width={Math.abs(last[0] - first[0])}
          height={Math.abs(last[1] - first[1])}
          fill="var(--act)"
          fillOpacity={0.12}
        />
      ) : (
        <path
          d={`M${line}${points.length === 1 ? `L${line}` : ""}`}
          strokeWidth={tool === "rub" ? RUBBER * 2 : 2}
          strokeOpacity={tool === "rub" ? 0.4 : 1}
          strokeLinecap="round"
        />
      )}
      {tool === "flatten" &&
        points.map(([x, y], i) => <circle key={i} cx={x} cy={y} r={5} fill="var(--sheet)" />)}
    </g>
  );
}
