import type { Document, Flat } from "../../api/client";
import { around, type Rect } from "./viewport";

/** The base and what stands on it, in their filaments. */
export function StillDrawing({ flat, document }: { flat: Flat; document: Document }) {
  const colour = (id: string) => document.filaments.find((f) => f.id === id)?.colour ?? "#888888";
  const line = { stroke: "var(--ink)", strokeWidth: 1.2, vectorEffect: "non-scaling-stroke" } as const;
  return (
    <g fillRule="evenodd" strokeLinejoin="round">
      {flat.base_path && <path d={flat.base_path} fill={colour(document.base.filament)} {...line} />}
      {flat.regions
        .filter((region) => !region.left_out)
        .map((region) => (
          <path key={region.id} d={region.path} fill={colour(region.filament)} {...line} />
        ))}
    </g>
  );
}

/** The box round all of it, mm; none where the sheet is empty. */
export function boxOf(flat: Flat): Rect | null {
  const boxes = [
    ...(flat.base_box ? [flat.base_box] : []),
    ...flat.regions.filter((r) => !r.left_out).map((r) => r.box),
  ];
  const rects = boxes.map(([x, y, width, height]) => ({ x, y, width, height }));
  return rects.length ? rects.reduce(around) : null;
}
