import { MM_PER_INCH, trimmed, type Units } from "../../ui/length";
import { useBench } from "../store";
import { ticks, type Viewport } from "./viewport";

export const RULER = 22;

/** Rulers along the top and the left; the pointer's place is marked on both. */
export function Rulers({
  view,
  width,
  height,
  units,
}: {
  view: Viewport;
  width: number;
  height: number;
  units: Units;
}) {
  const unit = units === "mm" ? 1 : MM_PER_INCH;
  const px = view.scale * unit;
  const across = ticks((RULER - view.x) / px, (width - view.x) / px, px);
  const down = ticks((RULER - view.y) / px, (height - view.y) / px, px);
  const digits = Math.max(0, -Math.floor(Math.log10(across.step) + 1e-9));
  return (
    <g aria-hidden className="pointer-events-none select-none" fontSize="10" fill="var(--soft)">
      <rect width={width} height={RULER} fill="var(--paper)" />
      <rect width={RULER} height={height} fill="var(--paper)" />
      <path
        d={across.at
          .map(({ value, major }) => `M${(view.x + value * px).toFixed(1)} ${RULER}v${major ? -8 : -4}`)
          .join("")}
        stroke="var(--hair)"
      />
      <path
        d={down.at
          .map(({ value, major }) => `M${RULER} ${(view.y + value * px).toFixed(1)}h${major ? -8 : -4}`)
          .join("")}
        stroke="var(--hair)"
      />
      {across.at
        .filter(({ major, value }) => major && view.x + value * px > RULER + 8)
        .map(({ value }) => (
          <text key={value} x={view.x + value * px} y={11} textAnchor="middle">
            {trimmed(value, digits)}
          </text>
        ))}
      {down.at
        .filter(({ major, value }) => major && view.y + value * px > RULER + 10)
        .map(({ value }) => (
          <text
            key={value}
            transform={`translate(11 ${view.y + value * px}) rotate(-90)`}
            textAnchor="middle"
          >
            {trimmed(value, digits)}
          </text>
        ))}
      <PointerMarks view={view} />
      <rect width={RULER} height={RULER} fill="var(--paper)" />
      <text x={RULER / 2} y={RULER / 2 + 3.5} textAnchor="middle">
        {units === "mm" ? "mm" : "in"}
      </text>
      <path d={`M${RULER} ${height}V${RULER}H${width}`} fill="none" stroke="var(--rule)" />
    </g>
  );
}

function PointerMarks({ view }: { view: Viewport }) {
  const pointer = useBench((s) => s.pointer);
  if (!pointer) return null;
  return (
    <path
      d={`M${view.x + pointer.x * view.scale} 0v${RULER}M0 ${view.y + pointer.y * view.scale}h${RULER}`}
      stroke="var(--act)"
      strokeWidth="1.5"
    />
  );
}
