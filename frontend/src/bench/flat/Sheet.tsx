import { memo, useMemo } from "react";

import type { Flat } from "../../api/client";
import { colourOf, useDocument, useLook } from "../select";
import { useBench } from "../store";
import { useAttempt } from "../useLookOver";
import { NodeMarks } from "./NodeMarks";
import { aligned, onPicture, onScreen } from "./place";
import { Bands, Lost, Patterns, Regions } from "./Regions";
import { SheetCanvas } from "./SheetCanvas";
import { moved, useSettled } from "./useSettled";
import type { Viewport } from "./viewport";

/** From so many px a pixel of the picture on, the grid of its pixels is drawn. */
export const GRID_FROM = 8;
/** A sheet with more regions than this is moved as one picture while the hand moves, and drawn anew when it rests. */
const HEAVY = 500;
/** How far beyond the view a heavy sheet is drawn, as a share of the view. */
const BEYOND = 0.12;

type Props = {
  flat: Flat | null;
  view: Viewport;
  width: number;
  height: number;
  nodes: boolean;
  filled: boolean;
};

/** The underlay, the base and the regions: what lies on the sheet beneath everything that the hand holds. */
export function Sheet({ flat, view, width, height, nodes, filled }: Props) {
  const wiping = useBench((s) => s.wipe !== null);
  const heavy = !wiping && (flat?.regions.length ?? 0) > HEAVY;
  const settled = useSettled(view, heavy);
  const document = useDocument();
  const stop = useBench((s) => s.stop);
  const faint = stop === "Gather" || (stop === "Trace" && !filled);
  const [beyondX, beyondY] = heavy ? [Math.round(width * BEYOND), Math.round(height * BEYOND)] : [0, 0];
  const place = useMemo(
    () => ({ view: settled, width, height, beyondX, beyondY }),
    [settled, width, height, beyondX, beyondY],
  );
  return (
    <div
      className="absolute top-0 left-0 origin-top-left"
      style={heavy ? { transform: moved(settled, view), willChange: "transform" } : undefined}
    >
      <svg
        aria-hidden
        width={width + 2 * beyondX}
        height={height + 2 * beyondY}
        className="absolute block"
        style={{ left: -beyondX, top: -beyondY }}
      >
        <g transform={heavy ? `translate(${beyondX} ${beyondY})` : undefined}>
          <Drawing
            flat={flat}
            view={settled}
            width={width}
            height={height}
            nodes={nodes}
            filled={filled}
            heavy={heavy}
          />
        </g>
      </svg>
      {heavy && flat && document && (
        <SheetCanvas flat={flat} document={document} faint={faint} place={place} />
      )}
    </div>
  );
}

const Drawing = memo(function Drawing({
  flat,
  view,
  width,
  height,
  nodes,
  filled,
  heavy,
}: Props & { heavy: boolean }) {
  const document = useDocument();
  const look = useLook();
  const stop = useBench((s) => s.stop);
  const faint = stop === "Gather" || (stop === "Trace" && !filled);
  const strength = useBench((s) => s.underlay);
  const wipe = useBench((s) => s.wipe);
  const comparedId = useBench((s) => s.compared);
  const compared = useAttempt(comparedId);
  const sheet = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return (
    <>
      <Patterns scale={view.scale} document={document} />
      {wipe !== null && (
        <defs>
          <clipPath id="wipe-left">
            <rect width={wipe * width} height={height} />
          </clipPath>
          <clipPath id="wipe-right">
            <rect x={wipe * width} width={(1 - wipe) * width} height={height} />
          </clipPath>
        </defs>
      )}
      <g transform={sheet}>
        {flat?.underlay && document?.source && (
          <image
            data-underlay
            href={look}
            x={flat.underlay.x}
            y={flat.underlay.y}
            width={flat.underlay.width}
            height={flat.underlay.height}
            preserveAspectRatio="none"
            opacity={stop === "Gather" || (wipe !== null && !compared) ? 1 : strength}
            style={{ imageRendering: view.scale * flat.mm_per_px > 4 ? "pixelated" : "auto" }}
          />
        )}
      </g>
      {flat && wipe !== null && !compared && (
        <rect
          x={wipe * width}
          width={(1 - wipe) * width}
          height={height}
          fill="var(--sheet)"
          fillOpacity={1 - strength}
          pointerEvents="none"
        />
      )}
      {flat?.underlay && stop !== "Gather" && view.scale * flat.mm_per_px >= GRID_FROM && (
        <PixelGrid flat={flat} view={view} width={width} height={height} />
      )}
      {flat && document && (
        <g clipPath={wipe === null ? undefined : "url(#wipe-right)"}>
          <g transform={sheet}>
            {flat.base_path && (
              <path
                d={flat.base_path}
                fill={colourOf(document, document.base?.filament ?? "")}
                fillOpacity={stop === "Gather" || stop === "Trace" ? 0 : 0.16}
                fillRule="evenodd"
                stroke="var(--ink)"
                strokeOpacity={stop === "Gather" ? 0.25 : stop === "Trace" ? 0.4 : 1}
                strokeDasharray={stop === "Gather" || stop === "Trace" ? "5 4" : undefined}
                strokeWidth={1.1}
                vectorEffect="non-scaling-stroke"
                pointerEvents="none"
              />
            )}
            {flat.overhang_path && stop !== "Gather" && stop !== "Trace" && (
              <path
                data-overhang
                d={flat.overhang_path}
                fill="var(--remark)"
                fillOpacity={0.5}
                fillRule="evenodd"
                stroke="var(--remark)"
                strokeWidth={6}
                strokeOpacity={0.5}
                vectorEffect="non-scaling-stroke"
                pointerEvents="none"
              />
            )}
            {!heavy && <Bands flat={flat} />}
            {!heavy && <Regions flat={flat} document={document} faint={faint} />}
            {stop === "Trace" &&
              flat.traces.map(
                (trace) => trace.lost_path && <Lost key={trace.area ?? ""} path={trace.lost_path} />,
              )}
          </g>
          {nodes && stop !== "Gather" && <NodeMarks flat={flat} view={view} />}
        </g>
      )}
      {flat && document && wipe !== null && compared && (
        <g clipPath="url(#wipe-left)" pointerEvents="none" data-compared>
          <g transform={`${sheet} ${aligned(compared, flat)}`}>
            <Regions flat={compared} document={document} faint={!filled} />
          </g>
        </g>
      )}
    </>
  );
});

/** The grid of the picture's pixels, only where it is seen. */
function PixelGrid({
  flat,
  view,
  width,
  height,
}: {
  flat: Flat;
  view: Viewport;
  width: number;
  height: number;
}) {
  const [left, top] = onPicture([0, 0], flat, view).map((v) => Math.max(0, Math.floor(v))) as [
    number,
    number,
  ];
  const [across, down] = flat.underlay?.pixels ?? [0, 0];
  const [right, bottom] = onPicture([width, height], flat, view).map(Math.ceil) as [number, number];
  let path = "";
  const [x0, y0] = onScreen([left, top], flat, view);
  const [x1, y1] = onScreen([Math.min(right, across ?? 0), Math.min(bottom, down ?? 0)], flat, view);
  for (let x = left; x <= Math.min(right, across ?? 0); x++) {
    const at = onScreen([x, 0], flat, view)[0];
    path += `M${at} ${y0}V${y1}`;
  }
  for (let y = top; y <= Math.min(bottom, down ?? 0); y++) {
    const at = onScreen([0, y], flat, view)[1];
    path += `M${x0} ${at}H${x1}`;
  }
  return (
    <path
      data-pixel-grid
      d={path}
      stroke="var(--ink)"
      strokeOpacity={0.13}
      strokeWidth={1}
      pointerEvents="none"
    />
  );
}
