import { memo } from "react";

import type { Flat } from "../../api/client";
import { useBench } from "../store";
import type { Viewport } from "./viewport";

/** Length (px) of the bar across an open end. */
const BAR = 6;
/** Width (px) of what counts as a click on a line. */
const WIDE = 11;

/** Open lines of drawn things; a bar across each open end says that nothing closes there. */
export const DrawnLines = memo(function DrawnLines({ flat, view }: { flat: Flat; view: Viewport }) {
  const picked = useBench((s) => s.picked);
  const lines = flat.lines.filter((l) => l.picture === null);
  if (!lines.length) return null;
  const transform = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return (
    <g fill="none" strokeLinecap="round">
      {lines.map((line, i) => (
        <g key={`${line.id} ${i}`}>
          {picked.includes(line.id) && (
            <path
              d={line.path}
              transform={transform}
              stroke="var(--act)"
              strokeOpacity={0.45}
              strokeWidth={10}
              vectorEffect="non-scaling-stroke"
            />
          )}
          <path
            d={line.path}
            transform={transform}
            stroke="var(--ink)"
            strokeWidth={1.8}
            vectorEffect="non-scaling-stroke"
          />
          <path
            data-line={line.id}
            d={line.path}
            transform={transform}
            stroke="transparent"
            strokeWidth={WIDE}
            vectorEffect="non-scaling-stroke"
            pointerEvents="stroke"
          />
          {[line.start, line.end].map(([x = 0, y = 0], end) => (
            <path
              key={end}
              d={`M${view.x + x * view.scale - BAR} ${view.y + y * view.scale - BAR}l${2 * BAR} ${2 * BAR}`}
              stroke="var(--remark)"
              strokeWidth={2}
              pointerEvents="none"
            />
          ))}
        </g>
      ))}
    </g>
  );
});
