import { useEffect, useState } from "react";

import type { Viewport } from "./viewport";

/** A heavy sheet is drawn anew when the hand rests this long, ms. */
const REST_MS = 160;

/** The viewport as it is, or for a heavy sheet as it was when the hand last rested. */
export function useSettled(view: Viewport, heavy: boolean): Viewport {
  const [settled, setSettled] = useState(view);
  useEffect(() => {
    if (!heavy) return;
    const rest = setTimeout(() => setSettled(view), REST_MS);
    return () => clearTimeout(rest);
  }, [view, heavy]);
  return heavy ? settled : view;
}

/** The CSS transform that brings what was drawn for one viewport to where another has it. */
export function moved(from: Viewport, to: Viewport): string {
  const scale = to.scale / from.scale;
  return `matrix(${scale}, 0, 0, ${scale}, ${to.x - from.x * scale}, ${to.y - from.y * scale})`;
}
