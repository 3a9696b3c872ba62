import type { Flat } from "../../api/client";
import { around, type Rect } from "./viewport";

/** What a fitted sheet shows: the art and its base; in Gather the whole picture. */
export function sheetBox(flat: Flat | null, drawing: boolean, picture: boolean): Rect | null {
  const pictures = flat?.underlays
    .filter((u) => !u.hidden)
    .map(({ box: [x, y, w, h] }) => ({ x, y, width: w, height: h }));
  if (pictures?.length && (picture || !flat?.regions.length)) return pictures.reduce(around);
  if (!flat?.regions.length && flat?.base_box) {
    const [x, y, width, height] = flat.base_box;
    return { x, y, width, height };
  }
  if (!flat?.regions.length) return flat?.things.length ? linesBox(flat) : drawing ? BLANK : null;
  const regions = { x: flat.left, y: flat.top, width: flat.width, height: flat.height };
  const open = drawing && flat.things.some((thing) => thing.open);
  const art = open ? around(regions, linesBox(flat)) : regions;
  if (!flat.base_box) return art;
  const [x, y, width, height] = flat.base_box;
  return around(art, { x, y, width, height });
}

/** What a blank sheet shows, mm. */
const BLANK: Rect = { x: 0, y: 0, width: 100, height: 80 };

/** The box of lines that enclose nothing yet. */
function linesBox(flat: Flat): Rect {
  const [x, y, width, height] = flat.things[0]?.box ?? [0, 0, 40, 40];
  const one = { x: x, y: y, width: Math.max(width, 20), height: Math.max(height, 20) };
  return flat.things.reduce((all, { box: [bx, by, w, h] }) => {
    return around(all, { x: bx, y: by, width: w, height: h });
  }, one);
}
