import { useProve } from "../prove/state";
import { useTroubles } from "../prove/useTroubles";
import type { Viewport } from "./viewport";

/** Radii (px) of the ring round a place: at least, and more than this none is drawn unless it is looked at. */
const RING = 9;
const WIDEST = 60;

/** What will not print, on the sheet: filled in the colour of remarks, a heavier ring round what is looked at. */
export function TroubleMarks({ view }: { view: Viewport }) {
  const troubles = useTroubles();
  const at = useProve((s) => s.trouble);
  if (!troubles?.length) return null;
  return (
    <g pointerEvents="none" data-troubles={troubles.length}>
      {troubles.map(({ kind, place }, i) => {
        if (kind === "too large" || kind === "too tall") return null;
        const [x = 0, y = 0] = place.at;
        const radius = Math.max(RING, Math.min(place.radius * view.scale + 5, WIDEST));
        return (
          <g key={i}>
            <path
              d={place.path}
              transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}
              fill="var(--remark)"
              fillOpacity={at === i ? 0.7 : 0.45}
              fillRule="evenodd"
              stroke="var(--remark)"
              strokeWidth={1.5}
              vectorEffect="non-scaling-stroke"
            />
            <circle
              cx={view.x + x * view.scale}
              cy={view.y + y * view.scale}
              r={radius}
              fill="none"
              stroke="var(--remark)"
              strokeWidth={at === i ? 3 : 1.6}
            />
          </g>
        );
      })}
    </g>
  );
}
