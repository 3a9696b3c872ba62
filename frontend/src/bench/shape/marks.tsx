import { X } from "lucide-react";
import { useEffect } from "react";

import type { Flat } from "../../api/client";
import { Button } from "../../ui/Button";
import { formatLength, unitName } from "../../ui/length";
import { type Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useDocument, useUnits } from "../select";
import { pour, pourAll } from "./pouring";
import { contoursOf } from "./contours";
import type { Snap } from "./snaps";
import { useShape } from "./state";
import { useItems } from "./useSheet";

const SIGNS: Record<Snap["kind"], string> = {
  nodes: "node",
  edges: "edge",
  centres: "centre",
  grid: "grid",
  picture: "picture's corner",
};
/** How fast the player goes, ms an outline. */
const PACE = 420;

/** What the pointer has snapped to. */
export function SnapMark({ snap, view }: { snap: Snap | null; view: Viewport }) {
  if (!snap) return null;
  const [x, y] = [view.x + snap.at[0] * view.scale, view.y + snap.at[1] * view.scale];
  return (
    <g pointerEvents="none" data-snap={snap.kind}>
      <circle cx={x} cy={y} r={7} fill="none" stroke="var(--remark)" strokeWidth={2} />
      {snap.kind !== "grid" && (
        <text x={x + 11} y={y - 8} fontSize={11.5} fill="var(--ink)">
          {SIGNS[snap.kind]}
        </text>
      )}
    </g>
  );
}

/** The line or the centre that what is drawn is repeated over. */
export function SymmetryMark({ view }: { view: Viewport }) {
  const symmetry = useDocument()?.symmetry;
  if (!symmetry) return null;
  const [mx, my] = symmetry.at;
  const [x, y] = [view.x + mx * view.scale, view.y + my * view.scale];
  const count = symmetry.kind === "mirror" ? 2 : symmetry.count;
  const first = symmetry.kind === "mirror" ? (symmetry.angle * Math.PI) / 180 : -Math.PI / 2;
  const far = 4000;
  const rays = Array.from({ length: count }, (_, i) => first + (i * 2 * Math.PI) / count);
  return (
    <g pointerEvents="none" data-symmetry={symmetry.kind} stroke="var(--remark)" strokeDasharray="10 4 2 4">
      {rays.map((angle) => (
        <path key={angle} d={`M${x} ${y}l${far * Math.cos(angle)} ${far * Math.sin(angle)}`} />
      ))}
      <circle cx={x} cy={y} r={3.5} fill="var(--remark)" stroke="none" />
    </g>
  );
}

/** Distance, angle and slope between two places. */
export function Measured({ view }: { view: Viewport }) {
  const measured = useShape((s) => s.measured);
  const units = useUnits();
  if (!measured) return null;
  const [a, b] = measured;
  const figures = figuresOf(a, b);
  const [x0, y0] = [view.x + a[0] * view.scale, view.y + a[1] * view.scale];
  const [x1, y1] = [view.x + b[0] * view.scale, view.y + b[1] * view.scale];
  return (
    <g pointerEvents="none" data-measured={figures.distance.toFixed(3)}>
      <path d={`M${x0} ${y0}L${x1} ${y1}`} stroke="var(--remark)" strokeWidth={2} />
      <circle cx={x0} cy={y0} r={3} fill="var(--remark)" />
      <circle cx={x1} cy={y1} r={3} fill="var(--remark)" />
      <text
        x={(x0 + x1) / 2 + 8}
        y={(y0 + y1) / 2 - 8}
        fontSize={13}
        fontWeight={600}
        fill="var(--ink)"
        stroke="var(--sheet)"
        strokeWidth={4}
        paintOrder="stroke"
      >
        {formatLength(figures.distance, units)} {unitName(units)}, {figures.angle.toFixed(1)}°
      </text>
    </g>
  );
}

export function figuresOf(a: Point, b: Point): { distance: number; angle: number; slope: string } {
  const [dx, dy] = [b[0] - a[0], a[1] - b[1]];
  const angle = (Math.atan2(dy, dx) * 180) / Math.PI;
  const slope =
    Math.abs(dx) < 1e-9
      ? "upright"
      : `1 / ${Math.abs(dx / (dy || 1e-12)) > 999 ? "∞" : Math.abs(dx / dy).toFixed(2)}`;
  return { distance: Math.hypot(dx, dy), angle, slope };
}

/** Where a pour ran out, with a click to close it. */
export function Leak({ view }: { view: Viewport }) {
  const leak = useShape((s) => s.leak);
  const gap = useShape((s) => s.gap);
  const units = useUnits();
  const { set } = useShape.getState();
  if (!leak) return null;
  const [a, b] = [leak.start, leak.end];
  const [x, y] = [view.x + ((a[0] + b[0]) / 2) * view.scale, view.y + ((a[1] + b[1]) / 2) * view.scale];
  return (
    <g data-leak={leak.width.toFixed(3)}>
      <path
        pointerEvents="none"
        d={`M${view.x + a[0] * view.scale} ${view.y + a[1] * view.scale}L${view.x + b[0] * view.scale} ${view.y + b[1] * view.scale}`}
        stroke="var(--error)"
        strokeWidth={4}
        strokeLinecap="round"
      />
      <circle cx={x} cy={y} r={16} fill="none" stroke="var(--error)" strokeWidth={2} pointerEvents="none" />
      <foreignObject x={x + 14} y={y + 10} width={256} height={96} className="overflow-visible">
        <div
          onPointerDown={(event) => event.stopPropagation()}
          className="bg-sheet border-error w-[248px] rounded-md border px-2.5 py-2 text-[12.5px] shadow"
        >
          <p className="mb-1.5">
            {leak.held ? "A line stops " : "It runs out through a gap of "}
            {formatLength(leak.width, units)} {unitName(units)}
            {leak.held ? " short of another here, so two areas run together." : "."}
          </p>
          <div className="flex gap-1.5">
            <Button kind="act" className="h-7! grow" onClick={() => void pour(leak.at, leak.width + 1e-6)}>
              Close the gap
            </Button>
            {leak.held && (
              <Button className="h-7!" onClick={() => pourAll(leak.at, gap)}>
                Pour both
              </Button>
            )}
            <Button className="h-7!" aria-label="Leave it" onClick={() => set({ leak: null })}>
              {leak.held ? <X size={14} aria-hidden /> : "Leave it"}
            </Button>
          </div>
        </div>
      </foreignObject>
    </g>
  );
}

/** Outlines in their order, one after another, to see that each is one closed path. */
export function Player({ view }: { flat: Flat; view: Viewport }) {
  const items = useItems();
  const playing = useShape((s) => s.playing) ?? 0;
  const { set } = useShape.getState();
  const contours = items.flatMap((item) => contoursOf(item.path).map((contour) => ({ item, contour })));
  useEffect(() => {
    const timer = setTimeout(
      () => set({ playing: playing >= contours.length ? null : playing + 1 }),
      contours.length > 60 ? 60 : PACE,
    );
    return () => clearTimeout(timer);
  }, [playing, contours.length, set]);
  return (
    <g pointerEvents="none" data-playing={playing}>
      <rect width="100%" height="100%" fill="var(--sheet)" fillOpacity={0.85} />
      <g transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}>
        {contours.slice(0, playing).map(({ contour }, i) => {
          const points = contour.segments.map((s) => s.points);
          const first = points[0]?.[0];
          if (!first) return null;
          const d = `M${first.join(" ")}${points.map(([, b, c, e]) => `C${b.join(" ")} ${c.join(" ")} ${e.join(" ")}`).join("")}${contour.closed ? "Z" : ""}`;
          return (
            <path
              key={i}
              d={d}
              fill={contour.closed ? "var(--act)" : "none"}
              fillOpacity={0.18}
              stroke={contour.closed ? "var(--act)" : "var(--error)"}
              strokeWidth={i === playing - 1 ? 3 : 1.5}
              vectorEffect="non-scaling-stroke"
            />
          );
        })}
      </g>
    </g>
  );
}

/** Half the arm (px) of the cross at a crossing. */
const CROSS = 6;

/** A ring with a cross in it where an outline crosses itself. */
export function Crossings({ view }: { view: Viewport }) {
  const items = useItems();
  const places = items.flatMap((item) => item.crossings);
  if (!places.length) return null;
  return (
    <g pointerEvents="none" data-crossings={places.length} stroke="var(--remark)" strokeWidth={2} fill="none">
      {places.map(([px, py], i) => {
        const [x, y] = [view.x + px * view.scale, view.y + py * view.scale];
        return (
          <g key={i}>
            <circle cx={x} cy={y} r={1.7 * CROSS} />
            <path
              d={`M${x - CROSS} ${y - CROSS}l${2 * CROSS} ${2 * CROSS}M${x - CROSS} ${y + CROSS}l${2 * CROSS} ${-2 * CROSS}`}
            />
          </g>
        );
      })}
    </g>
  );
}
