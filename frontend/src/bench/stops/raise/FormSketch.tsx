import type { Document, Flat } from "../../../api/client";
import { colourOf } from "../../select";

/** More regions than this make no small picture. */
const MOST = 120;

/** A form in small, drawn with the maker's own outlines. */
export function FormSketch({
  form,
  flat,
  document,
}: {
  form: Document["form"];
  flat: Flat;
  document: Document;
}) {
  const pad = 0.22 * Math.max(flat.width, flat.height, 1);
  const box = [flat.left - pad, flat.top - pad, flat.width + 2 * pad, flat.height + 2 * pad];
  const regions = flat.regions.filter((r) => !r.left_out).slice(0, MOST);
  const wide = pad * 0.55;
  const middle = flat.left + flat.width / 2;
  const paths = (fill: (filament: string) => string) =>
    regions.map((r) => <path key={r.id} d={r.path} fill={fill(r.filament)} fillRule="evenodd" />);
  const round = (colour: string, width: number) => (
    <g stroke={colour} strokeWidth={width} strokeLinejoin="round" fill={colour}>
      {regions.map((r) => (
        <path key={r.id} d={r.path.split(/(?=M)/)[0]} />
      ))}
    </g>
  );
  return (
    <svg viewBox={box.join(" ")} className="h-11 w-full" aria-hidden>
      {form === "relief" && (
        <>
          {round(colourOf(document, document.base.filament), wide * 1.4)}
          {paths((f) => colourOf(document, f))}
        </>
      )}
      {form === "stamp" && (
        <g transform={`translate(${2 * middle} 0) scale(-1 1)`}>
          {round("var(--rule)", wide * 1.6)}
          {paths(() => "var(--ink)")}
        </g>
      )}
      {form === "cutter" && (
        <>
          {round("var(--soft)", wide * 1.5)}
          {round("var(--ink)", wide * 0.6)}
          {round("var(--sheet)", 0)}
        </>
      )}
      {form === "nameplate" && (
        <>
          <circle
            cx={flat.left}
            cy={flat.top}
            r={wide * 0.7}
            fill="none"
            stroke={colourOf(document, document.base.filament)}
            strokeWidth={wide * 0.6}
          />
          {round(colourOf(document, document.base.filament), wide * 1.5)}
          {paths(() => colourOf(document, document.default_filament))}
        </>
      )}
    </svg>
  );
}
