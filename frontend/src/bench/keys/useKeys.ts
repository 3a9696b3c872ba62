import { useEffect, useRef } from "react";

import { matches } from "./chord";
import { claims } from "./claims";
import { KEYS, type Action, type Row } from "./table";

/** Which of the handlers of a key comes first. */
const LEVELS = ["crosshair", "tool", "stop", "bench"] as const;
export type Level = (typeof LEVELS)[number];

/** What an action does; false when it has no use for the key just now, so that the next may have it. */
export type Handlers = Partial<Record<Action, (event: KeyboardEvent) => unknown>>;

type Layer = { level: Level; handlers: () => Handlers };

/** What is on the screen and has keys, in the order in which it came. */
const layers: Layer[] = [];

/** Gives a key to the first that has a use for it. */
function dispatch(event: KeyboardEvent, levels: readonly Level[]): void {
  if (event.defaultPrevented) return;
  const wanted = (Object.keys(KEYS) as Action[]).filter((action) => {
    const row: Row = KEYS[action];
    return row.chords.some((chord) => matches(event, chord)) && !claims(event.target, event.key, row);
  });
  if (!wanted.length) return;
  for (const level of levels)
    for (const layer of layers.filter((l) => l.level === level).reverse())
      for (const action of wanted) {
        const handle = layer.handlers()[action];
        if (!handle || handle(event) === false) continue;
        event.preventDefault();
        event.stopImmediatePropagation();
        return;
      }
}

// The crosshair is a pointer: its keys are not for what has the focus. All others hear what controls leave.
const first = (event: KeyboardEvent) => dispatch(event, ["crosshair"]);
const then = (event: KeyboardEvent) => dispatch(event, LEVELS.slice(1));

/** Lets keys of the table do something while the component is on the screen. */
export function useKeys(level: Level, handlers: Handlers, on = true): void {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    if (!on) return;
    const layer: Layer = { level, handlers: () => latest.current };
    if (!layers.length) {
      window.addEventListener("keydown", first, true);
      window.addEventListener("keydown", then);
    }
    layers.push(layer);
    return () => {
      layers.splice(layers.indexOf(layer), 1);
      if (layers.length) return;
      window.removeEventListener("keydown", first, true);
      window.removeEventListener("keydown", then);
    };
  }, [level, on]);
}
