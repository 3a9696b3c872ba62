import { useBench } from "../store";
import { useLookOver } from "../useLookOver";
import type { Viewport } from "./viewport";

/** A ring round the rough spot that is looked at. */
export function SpotMark({ view }: { view: Viewport }) {
  const number = useBench((s) => s.spot);
  const spot = useLookOver()?.spots[number ?? -1];
  if (!spot) return null;
  const [x, y] = spot.at as [number, number];
  return (
    <circle
      data-spot={spot.kind}
      cx={view.x + x * view.scale}
      cy={view.y + y * view.scale}
      r={Math.max(14, spot.radius * view.scale)}
      fill="none"
      stroke="var(--remark)"
      strokeWidth={2.5}
      strokeDasharray="7 4"
      pointerEvents="none"
    />
  );
}
