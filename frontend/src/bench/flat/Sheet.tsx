import { memo, useMemo } from "react";

import type { Flat, Underlay } from "../../api/client";
import { colourOf, lookOf, useDocument, useUnderlay } from "../select";
import { useBench } from "../store";
import { useAttempt } from "../useLookOver";
import { NodeMarks } from "./NodeMarks";
import { fromScreen, inPicture, placeOf } from "./place";
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
  const piece = useBench((s) => s.piece?.id ?? "");
  const underlay = useUnderlay();
  const stop = useBench((s) => s.stop);
  const faint = stop === "Gather" || (stop === "Trace" && !filled);
  const strength = useBench((s) => s.underlay);
  const darker = useBench((s) => s.darker);
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
      <g transform={sheet} data-sheet>
        {flat?.underlays.map(
          (underlay) =>
            !underlay.hidden && (
              <image
                key={underlay.id}
                data-underlay={underlay.id}
                href={lookOf(piece, underlay.look)}
                transform={placeOf(underlay)}
                width={underlay.pixels[0]}
                height={underlay.pixels[1]}
                preserveAspectRatio="none"
                opacity={stop === "Gather" || (wipe !== null && !compared) ? 1 : strength}
                style={{
                  filter: darker && stop !== "Gather" ? "contrast(2.4) brightness(0.9)" : undefined,
                  imageRendering: view.scale * underlay.mm_per_px > 4 ? "pixelated" : "auto",
                }}
              />
            ),
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
      {underlay && stop !== "Gather" && view.scale * underlay.mm_per_px >= GRID_FROM && (
        <PixelGrid underlay={underlay} view={view} width={width} height={height} />
      )}
      {flat && document && (
        <g clipPath={wipe === null ? undefined : "url(#wipe-right)"}>
          <g transform={sheet}>
            {flat.base_path && (
              <path
                d={flat.base_path}
                fill={colourOf(document, document.base.filament)}
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
                (trace) =>
                  trace.lost_path && <Lost key={`${trace.picture} ${trace.area}`} path={trace.lost_path} />,
              )}
          </g>
          {nodes && stop !== "Gather" && <NodeMarks flat={flat} view={view} />}
        </g>
      )}
      {flat && document && wipe !== null && compared && (
        <g clipPath="url(#wipe-left)" pointerEvents="none" data-compared>
          <g transform={sheet}>
            <Regions flat={compared} document={document} faint={!filled} />
          </g>
        </g>
      )}
    </>
  );
});

/** The grid of a picture's pixels, only where it is seen. */
function PixelGrid({
  underlay,
  view,
  width,
  height,
}: {
  underlay: Underlay;
  view: Viewport;
  width: number;
  height: number;
}) {
  const seen = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ].map(([x = 0, y = 0]) => inPicture(fromScreen([x, y], view), underlay));
  const [across, down] = underlay.pixels;
  const range = (axis: 0 | 1, most: number) => [
    Math.max(0, Math.floor(Math.min(...seen.map((p) => p[axis])))),
    Math.min(most, Math.ceil(Math.max(...seen.map((p) => p[axis])))),
  ];
  const [left = 0, right = 0] = range(0, across);
  const [top = 0, bottom = 0] = range(1, down);
  let path = "";
  for (let x = left; x <= right; x++) path += `M${x} ${top}V${bottom}`;
  for (let y = top; y <= bottom; y++) path += `M${left} ${y}H${right}`;
  return (
    <path
      data-pixel-grid
      d={path}
      transform={`translate(${view.x} ${view.y}) scale(${view.scale}) ${placeOf(underlay)}`}
      stroke="var(--ink)"
      strokeOpacity={0.13}
      strokeWidth={1}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}
