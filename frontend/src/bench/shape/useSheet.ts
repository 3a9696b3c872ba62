import { useMemo, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import type { Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useDocument, useShown } from "../select";
import { useBench } from "../store";
import { itemsOf, pickedItems, type Item } from "./objects";
import { snapField, snapped, type Snap } from "./snaps";
import { useShape } from "./state";

/** Reach of a snap, px on the screen. */
const REACH = 9;
const NOTHING: ReadonlySet<string> = new Set();

export function useItems(): readonly Item[] {
  const flat = useShown();
  const document = useDocument();
  return useMemo(() => itemsOf(flat, document), [flat, document]);
}

export function usePicked(): readonly Item[] {
  const items = useItems();
  const picked = useBench((s) => s.picked);
  return useMemo(() => pickedItems(items, picked), [items, picked]);
}

/** A point of the screen on the sheet, mm. */
export function toSheet(event: PointerEvent | MouseEvent, element: Element, view: Viewport): Point {
  const frame = element.getBoundingClientRect();
  return [
    (event.clientX - frame.left - view.x) / view.scale,
    (event.clientY - frame.top - view.y) / view.scale,
  ];
}

/** Snapping to what lies on the sheet, less what is being moved. */
export function useSnap(
  flat: Flat,
  view: Viewport,
  skip: ReadonlySet<string> = NOTHING,
): (at: Point) => Snap | null {
  const items = useItems();
  const on = useShape((s) => s.snap);
  const grid = useShape((s) => s.grid);
  const field = useMemo(() => snapField(items, flat, skip), [items, flat, skip]);
  return (at) => snapped(at, field, on, REACH / view.scale, grid);
}
