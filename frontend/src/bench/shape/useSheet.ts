import { useMemo, type PointerEvent } from "react";

import type { Flat } from "../../api/client";
import { linesAt, regionsAt } from "../flat/hits";
import type { Point } from "../flat/place";
import type { Viewport } from "../flat/viewport";
import { useDocument, useShown } from "../select";
import { useBench } from "../store";
import { itemsOf, pickedItems, type Item } from "./objects";
import { snapField, snapped, type Snap } from "./snaps";
import { useShape } from "./state";

/** Reach of a snap, px on the screen. */
const REACH = 9;
/** How far (px) from an open line a click still means it. */
const LINE_REACH = 6;
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

/** What can be picked at a point of the sheet, the topmost first. */
export function itemsAt(items: readonly Item[], flat: Flat, view: Viewport, at: Point): Item[] {
  const names = [...linesAt(flat, at, LINE_REACH / view.scale), ...regionsAt(flat, at)];
  return names.flatMap((name) => items.filter((i) => i.ids.includes(name) && !i.thing?.locked).slice(0, 1));
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
  // Of many outlines the field is large: it is made when the hand first needs it.
  const field = useMemo(() => once(() => snapField(items, flat, skip)), [items, flat, skip]);
  return (at) => snapped(at, field(), on, REACH / view.scale, grid);
}

function once<T>(make: () => T): () => T {
  let made: { value: T } | null = null;
  return () => (made ??= { value: make() }).value;
}
