import type { Flat } from "../../api/client";
import { usePenState } from "../pen";
import { useBench } from "../store";
import { onScreen, type Point } from "./place";
import type { Viewport } from "./viewport";

/** Half the length (px on the screen) of the bar across an open end. */
const BAR = 6;

/** Open lines of the pen, with a bar across each end; a click on one goes on with the line. */
export function PenLines({ flat, view }: { flat: Flat; view: Viewport }) {
  const { setTool, setPicture } = useBench.getState();
  const { line: current, setLine } = usePenState();
  return (
    <g fill="none" stroke="var(--ink)" strokeLinecap="round">
      {flat.lines.map((line) => (
        <g key={line.id} data-pen={line.id}>
          <path
            d={line.path}
            transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}
            strokeWidth={line.id === current ? 2.2 : 1.6}
            vectorEffect="non-scaling-stroke"
            pointerEvents="none"
          />
          {([line.start, line.end] as const).map(([x, y], i) => {
            const sx = view.x + x * view.scale;
            const sy = view.y + y * view.scale;
            const [dx, dy] = across(line.path, i === 1);
            return (
              <g key={i}>
                <path
                  d={`M${sx - dx * BAR} ${sy - dy * BAR}L${sx + dx * BAR} ${sy + dy * BAR}`}
                  strokeWidth={2.4}
                  pointerEvents="none"
                />
                {i === 1 && (
                  <circle
                    data-open-end={line.id}
                    cx={sx}
                    cy={sy}
                    r={10}
                    stroke="none"
                    fill="transparent"
                    className="cursor-pointer"
                    onPointerDown={(event) => {
                      if (current === line.id) return;
                      event.stopPropagation();
                      setPicture(line.picture);
                      setLine(line.id);
                      setTool("pen");
                    }}
                  >
                    <title>Go on with {line.name}</title>
                  </circle>
                )}
              </g>
            );
          })}
        </g>
      ))}
    </g>
  );
}

/** Unit direction across a path at its start or end. */
function across(path: string, atEnd: boolean): [number, number] {
  const numbers = path.match(/-?\d*\.?\d+(?:e-?\d+)?/g)?.map(Number) ?? [];
  const four = atEnd ? numbers.slice(-4) : numbers.slice(0, 4);
  const [ax = 0, ay = 0, bx = 1, by = 0] = four;
  const length = Math.hypot(bx - ax, by - ay) || 1;
  return [-(by - ay) / length, (bx - ax) / length];
}

/** What the pen would draw next, and where its line began. */
export function PenTail({
  view,
  start,
  tail,
}: {
  view: Viewport;
  start: Point | null;
  tail: readonly Point[];
}) {
  if (!start) return null;
  const [sx, sy] = onScreen(start, view);
  const way = tail.map((p) => onScreen(p, view).join(" ")).join("L");
  return (
    <g pointerEvents="none" fill="none" stroke="var(--act)">
      {tail.length > 1 && (
        <path data-pen-tail={tail.length} d={`M${way}`} strokeWidth={2.2} strokeLinejoin="round" />
      )}
      <circle cx={sx} cy={sy} r={6} strokeWidth={1.8} fill="var(--sheet)" />
    </g>
  );
}
