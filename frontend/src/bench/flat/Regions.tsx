import { memo } from "react";

import type { Document, Flat, Region } from "../../api/client";
import { colourOf } from "../select";
import { useBench } from "../store";

/** Whether a region is among names, by its own or by the drawn thing that it is of. */
export function named(names: ReadonlySet<string>, region: Region): boolean {
  return names.has(region.id) || (region.drawn !== null && names.has(region.drawn));
}

/** The soft band beneath what is picked or hovered. */
export function Bands({ flat }: { flat: Flat }) {
  const picked = useBench((s) => s.picked);
  const hover = useBench((s) => s.hover);
  // Beneath nodes and handles a band would only be in the way.
  const quiet = useBench((s) => s.tool === "nodes");
  if (quiet) return null;
  const chosen = new Set(picked);
  const lit = hover ? new Set([...picked, hover]) : chosen;
  return (
    <g fill="none" stroke="var(--act)" pointerEvents="none" strokeLinejoin="round">
      {flat.regions
        .filter((r) => named(lit, r))
        .map((r) => (
          <path
            key={r.id}
            d={r.path}
            strokeWidth={named(chosen, r) ? 11 : 7}
            strokeOpacity={named(chosen, r) ? 0.45 : 0.25}
            vectorEffect="non-scaling-stroke"
          />
        ))}
    </g>
  );
}

export const Regions = memo(function Regions({
  flat,
  document,
  faint,
}: {
  flat: Flat;
  document: Document;
  faint: boolean;
}) {
  return (
    <g strokeLinejoin="round">
      {flat.regions.map((region) => (
        <path
          key={region.id}
          data-region={region.id}
          d={region.path}
          {...paint(region, document, faint)}
          fillRule="evenodd"
          stroke={region.left_out ? "var(--error)" : "var(--ink)"}
          strokeDasharray={region.left_out ? "2 4" : undefined}
          strokeWidth={1.4}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </g>
  );
});

export type Fill = { pattern: "hatched" | "dotted" | null; fill: string; opacity: number };

/** Raised and flush in the filament's colour, sunk hatched, through dotted, left out empty. */
export function fillOf(region: Region, document: Document, faint: boolean): Fill {
  if (region.left_out) return { pattern: null, fill: "transparent", opacity: 0 };
  const fill = colourOf(document, region.filament);
  if (region.height === "through") return { pattern: "dotted", fill, opacity: faint ? 0.5 : 1 };
  if (region.height < 0) return { pattern: "hatched", fill, opacity: faint ? 0.5 : 1 };
  return { pattern: null, fill, opacity: faint ? 0.18 : 0.55 };
}

function paint(region: Region, document: Document, faint: boolean): { fill: string; fillOpacity: number } {
  const { pattern, fill, opacity } = fillOf(region, document, faint);
  return { fill: pattern ? `url(#${pattern})` : fill, fillOpacity: opacity };
}

export function Patterns({ scale, document }: { scale: number; document: Document | null }) {
  const unit = 1 / scale;
  const base = colourOf(document, document?.base.filament ?? "");
  return (
    <defs>
      <pattern
        id="hatched"
        width={7 * unit}
        height={7 * unit}
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width={7 * unit} height={7 * unit} fill={base} fillOpacity={0.22} />
        <path d={`M0 0V${7 * unit}`} stroke="var(--ink)" strokeOpacity={0.6} strokeWidth={1.6 * unit} />
      </pattern>
      <pattern id="dotted" width={8 * unit} height={8 * unit} patternUnits="userSpaceOnUse">
        <rect width={8 * unit} height={8 * unit} fill="var(--sheet)" />
        <circle cx={4 * unit} cy={4 * unit} r={1.3 * unit} fill="var(--ink)" fillOpacity={0.6} />
      </pattern>
    </defs>
  );
}

/** Specks and pinholes that are left out, struck out so that nothing goes unseen. */
export function Lost({ path }: { path: string }) {
  return (
    <path
      data-lost
      d={path}
      fill="var(--error)"
      fillOpacity={0.25}
      stroke="var(--error)"
      strokeWidth={1.2}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}
