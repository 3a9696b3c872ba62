import { memo } from "react";

import type { Document, Flat, Region } from "../../api/client";
import { colourOf } from "../select";
import { useBench } from "../store";

/** The soft band beneath what is picked or hovered. */
export function Bands({ flat }: { flat: Flat }) {
  const picked = useBench((s) => s.picked);
  const hover = useBench((s) => s.hover);
  // Beneath nodes and handles a band would only be in the way.
  const quiet = useBench((s) => s.tool === "nodes");
  const named = (id: string, drawn: string | null) =>
    picked.includes(id) || (drawn && picked.includes(drawn));
  if (quiet) return null;
  return (
    <g fill="none" stroke="var(--act)" pointerEvents="none" strokeLinejoin="round">
      {flat.regions
        .filter((r) => named(r.id, r.drawn) || r.id === hover || (r.drawn && r.drawn === hover))
        .map((r) => (
          <path
            key={r.id}
            d={r.path}
            strokeWidth={named(r.id, r.drawn) ? 11 : 7}
            strokeOpacity={named(r.id, r.drawn) ? 0.45 : 0.25}
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

/** Raised and flush in the filament's colour, sunk hatched, through dotted, left out empty. */
function paint(region: Region, document: Document, faint: boolean): { fill: string; fillOpacity: number } {
  if (region.left_out) return { fill: "transparent", fillOpacity: 0 };
  if (region.height === "through") return { fill: "url(#dotted)", fillOpacity: faint ? 0.5 : 1 };
  if (region.height < 0) return { fill: "url(#hatched)", fillOpacity: faint ? 0.5 : 1 };
  return { fill: colourOf(document, region.filament), fillOpacity: faint ? 0.18 : 0.55 };
}

export function Patterns({ scale, document }: { scale: number; document: Document | null }) {
  const unit = 1 / scale;
  const base = colourOf(document, document?.base?.filament ?? "");
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
