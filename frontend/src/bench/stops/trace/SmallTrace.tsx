import type { Flat } from "../../../api/client";
import { colourOf, useDocument } from "../../select";

/** A trace as a small picture of its own. */
export function SmallTrace({ flat, label, className }: { flat: Flat; label: string; className: string }) {
  const document = useDocument();
  return (
    <svg
      className={className}
      viewBox={`${flat.left} ${flat.top} ${flat.width} ${flat.height}`}
      role={label ? "img" : undefined}
      aria-label={label || undefined}
      aria-hidden={label ? undefined : true}
    >
      {flat.regions.map((r) => (
        <path
          key={r.id}
          d={r.path}
          fillRule="evenodd"
          fill={colourOf(document, r.filament)}
          stroke="var(--ink)"
          strokeWidth={0.7}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}
