import { Pin } from "lucide-react";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import type { Lying, Plan, PlanOut } from "./usePlan";

type Props = {
  laid: PlanOut;
  plan: Plan;
  bed: number;
  picked: number | null;
  onPick: (at: number | null) => void;
  onPlace: (at: number, change: Partial<Lying>) => void;
};

const MARGIN = 8;
const GRID = 20;
/** Steps of the arrow keys, mm, and of turning, radians. */
const STEP = 1;
const FAR_STEP = 10;
const TURN = Math.PI / 12;

const pathOf = (rings: readonly (readonly number[])[]) =>
  rings
    .map((ring) => {
      const points: string[] = [];
      for (let i = 0; i + 1 < ring.length; i += 2) points.push(`${ring[i]} ${ring[i + 1]}`);
      return `M${points.join("L")}Z`;
    })
    .join("");

const WRONG: Record<string, string> = {
  overlaps: "overlaps another copy",
  "over the edge": "over the edge of the bed",
};

/** A bed seen from above: copies are dragged to their places, or moved by keys. */
export function BedView({ laid, plan, bed, picked, onPick, onPlace }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ at: number; from: [number, number]; by: [number, number] } | null>(null);
  const { printer } = laid;
  const width = printer.width;
  const depth = printer.bed === "round" ? printer.width : printer.depth;

  const onBed = (event: PointerEvent): [number, number] => {
    const matrix = svg.current?.getScreenCTM();
    if (!matrix) return [0, 0];
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    return [point.x, -point.y];
  };
  const down = (event: PointerEvent, at: number) => {
    event.stopPropagation();
    onPick(at);
    const place = plan.places[at];
    if (event.button > 0 || !place) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ at, from: onBed(event), by: [0, 0] });
  };
  const move = (event: PointerEvent) => {
    if (!drag) return;
    const [x, y] = onBed(event);
    setDrag({ ...drag, by: [x - drag.from[0], y - drag.from[1]] });
  };
  const up = () => {
    if (!drag) return;
    const place = plan.places[drag.at];
    const [dx, dy] = drag.by;
    setDrag(null);
    if (place && Math.hypot(dx, dy) > 0.05)
      onPlace(drag.at, { x: rounded(place.x + dx), y: rounded(place.y + dy), locked: true });
  };
  const key = (event: KeyboardEvent, at: number) => {
    const place = plan.places[at];
    if (!place || event.ctrlKey || event.metaKey || event.altKey) return;
    const by = event.shiftKey ? FAR_STEP : STEP;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, by],
      ArrowDown: [0, -by],
    };
    const step = moves[event.key];
    const letter = event.key.toLowerCase();
    if (event.key === "Enter" || event.key === " ") onPick(picked === at ? null : at);
    else if (letter === "p") onPlace(at, { locked: !place.locked });
    else if (step)
      onPlace(at, { x: rounded(place.x + step[0]), y: rounded(place.y + step[1]), locked: true });
    else if (letter === "r")
      onPlace(at, turned(place, laid.pieces[place.thing], event.shiftKey ? -TURN : TURN));
    else return;
    event.preventDefault();
  };

  return (
    <svg
      ref={svg}
      role="group"
      aria-label={`Bed ${bed + 1} of ${printer.name}`}
      viewBox={`${-MARGIN} ${-depth - MARGIN} ${width + 2 * MARGIN} ${depth + 2 * MARGIN}`}
      className="size-full touch-none"
      onPointerDown={() => onPick(null)}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => setDrag(null)}
    >
      <g transform="scale(1 -1)">
        <Bed round={printer.bed === "round"} width={width} depth={depth} />
        {plan.places.map((place, at) => {
          const piece = laid.pieces[place.thing];
          if (place.bed !== bed || !piece?.outline.length) return null;
          const by = drag?.at === at ? drag.by : [0, 0];
          const wrong = plan.places.length === laid.amiss.length && !drag ? laid.amiss[at] : null;
          const copies = plan.things[place.thing]?.copies ?? 1;
          const name = copies > 1 ? `${piece.title} ${place.copy_number + 1}` : piece.title;
          const degrees = (place.turn * 180) / Math.PI;
          return (
            <g
              key={`${place.thing} ${place.copy_number}`}
              transform={`translate(${place.x + (by[0] ?? 0)} ${place.y + (by[1] ?? 0)}) rotate(${degrees})`}
              role="button"
              tabIndex={0}
              aria-pressed={picked === at}
              aria-label={`${name}, at ${place.x.toFixed(0)}, ${place.y.toFixed(0)} mm${place.locked ? ", pinned" : ""}${wrong ? `, ${WRONG[wrong]}` : ""}`}
              className={`cursor-grab outline-none active:cursor-grabbing [&:focus-visible>path]:stroke-[2.5px]`}
              style={{ outline: "none" }}
              onPointerDown={(event) => down(event, at)}
              onFocus={() => onPick(at)}
              onKeyDown={(event) => key(event, at)}
            >
              <path
                d={pathOf(piece.outline)}
                fillRule="evenodd"
                fill={piece.colours[0] ?? "var(--rule)"}
                fillOpacity={wrong ? 0.45 : 0.85}
                stroke={wrong ? "var(--error)" : picked === at ? "var(--act)" : "var(--ink)"}
                strokeWidth={wrong || picked === at ? 2 : 1}
                vectorEffect="non-scaling-stroke"
              />
              <g
                transform={`translate(${piece.size[0] / 2} ${piece.size[1] / 2}) rotate(${-degrees}) scale(1 -1)`}
                className="pointer-events-none"
              >
                <text
                  textAnchor="middle"
                  y={1.4}
                  fontSize={4.2}
                  fill="var(--ink)"
                  stroke="var(--paper)"
                  strokeWidth={1.1}
                  paintOrder="stroke"
                >
                  {shortened(name, piece.size[0])}
                </text>
              </g>
              {place.locked && (
                <g
                  transform={`translate(${piece.size[0] / 2} ${piece.size[1] / 2}) rotate(${-degrees}) scale(1 -1) translate(-3 -10)`}
                >
                  <circle cx={3} cy={3} r={4} fill="var(--paper)" />
                  <Pin x={0.5} y={0.5} width={5} height={5} aria-hidden />
                </g>
              )}
            </g>
          );
        })}
      </g>
    </svg>
  );
}

function Bed({ round, width, depth }: { round: boolean; width: number; depth: number }) {
  const clip = "bed-clip";
  const lines: string[] = [];
  for (let x = GRID; x < width; x += GRID) lines.push(`M${x} 0V${depth}`);
  for (let y = GRID; y < depth; y += GRID) lines.push(`M0 ${y}H${width}`);
  const shape = round ? (
    <circle cx={width / 2} cy={width / 2} r={width / 2} />
  ) : (
    <rect width={width} height={depth} rx={2} />
  );
  return (
    <g>
      <g fill="var(--sheet)" stroke="var(--soft)" strokeWidth={1}>
        {shape}
      </g>
      <clipPath id={clip}>{shape}</clipPath>
      <path d={lines.join("")} clipPath={`url(#${clip})`} stroke="var(--rule)" strokeWidth={0.4} />
    </g>
  );
}

/** A place turned about the middle of its piece. */
export function turned(
  place: Lying,
  piece: PlanOut["pieces"][number] | undefined,
  by: number,
): Partial<Lying> {
  const [u, v] = [(piece?.size[0] ?? 0) / 2, (piece?.size[1] ?? 0) / 2];
  const spun = (turn: number) => [
    u * Math.cos(turn) - v * Math.sin(turn),
    u * Math.sin(turn) + v * Math.cos(turn),
  ];
  const [x = 0, y = 0] = spun(place.turn);
  const turn = place.turn + by;
  const [p = 0, q = 0] = spun(turn);
  const whole = 2 * Math.PI;
  return {
    x: rounded(place.x + x - p),
    y: rounded(place.y + y - q),
    turn: ((turn % whole) + whole) % whole,
    locked: true,
  };
}

/** As much of a name as a piece of a width (mm) has room for. */
function shortened(name: string, width: number): string {
  const most = Math.max(4, Math.floor(width / 2.2));
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}

const rounded = (mm: number) => Math.round(mm * 100) / 100;
