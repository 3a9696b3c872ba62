import { useBench } from "../store";
import { useWeakSpots } from "../stops/raise/useWeakSpots";
import type { Viewport } from "./viewport";

/** Least radius (px) of the ring round a weak spot. */
const RING = 9;

/** Weak spots on the sheet: filled in the colour of remarks, a ring round each, a heavier one round what is looked at. */
export function WeakMarks({ view }: { view: Viewport }) {
  const places = useWeakSpots();
  const at = useBench((s) => s.spot);
  if (!places?.length) return null;
  return (
    <g pointerEvents="none" data-weak={places.length}>
      {places.map((place, i) => {
        const [x = 0, y = 0] = place.at;
        return (
          <g key={i}>
            <path
              d={place.path}
              transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}
              fill="var(--remark)"
              fillOpacity={0.55}
              fillRule="evenodd"
              stroke="var(--remark)"
              strokeWidth={1.5}
              vectorEffect="non-scaling-stroke"
            />
            <circle
              cx={view.x + x * view.scale}
              cy={view.y + y * view.scale}
              r={Math.max(RING, (place.width / 2) * view.scale + 5)}
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
