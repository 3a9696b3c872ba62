import type { Flat } from "../../api/client";
import type { Point } from "./place";

type Row = { id: string; path: string };

/** Path objects by row: rows that an edit did not change stay the same, and so do these. */
const paths = new WeakMap<Row, Path2D>();

export function pathOf(row: Row): Path2D {
  let found = paths.get(row);
  if (!found) paths.set(row, (found = new Path2D(row.path)));
  return found;
}

let context: CanvasRenderingContext2D | null = null;
function measuring(): CanvasRenderingContext2D | null {
  return (context ??= window.document.createElement("canvas").getContext("2d"));
}

/** Regions that cover a point of the sheet (mm), the topmost first. */
export function regionsAt(flat: Flat, [x, y]: Point): string[] {
  const within = measuring();
  return flat.regions
    .filter(({ box: [left = 0, top = 0, width = 0, height = 0] }) => {
      return x >= left && x <= left + width && y >= top && y <= top + height;
    })
    .filter((region) => within?.isPointInPath(pathOf(region), x, y, "evenodd"))
    .map((region) => region.id)
    .reverse();
}

/** Open drawn lines that run within `reach` (mm) of a point of the sheet, the topmost first. */
export function linesAt(flat: Flat, [x, y]: Point, reach: number): string[] {
  const within = measuring();
  if (!within) return [];
  within.lineWidth = 2 * reach;
  return flat.lines
    .filter((line) => line.picture === null && within.isPointInStroke(pathOf(line), x, y))
    .map((line) => line.id)
    .reverse();
}
