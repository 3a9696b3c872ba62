import { useEffect } from "react";

import { bothViews, swapViews } from "./arrangement";
import { regionsEdit } from "./select";
import { shapeKey } from "./shape/keys";
import { STOPS, useBench } from "./store";

/** What the keyboard does on the bench; the help lists the same table. */
export const SHORTCUTS: readonly { keys: string; does: string }[] = [
  { keys: "Ctrl Z", does: "undo" },
  { keys: "Ctrl Shift Z", does: "redo" },
  { keys: "Ctrl V", does: "paste the picture on the clipboard" },
  { keys: "Alt 1 … 5", does: "go to a stop: Gather, Trace, Shape, Raise, Prove" },
  { keys: "Tab", does: "next control" },
  { keys: "↑ ↓", does: "step a number; with Shift tenfold" },
  { keys: "+ −", does: "zoom the flat view" },
  { keys: "0", does: "fit the flat view" },
  { keys: "V", does: "swap the large view and the small one" },
  { keys: "B", does: "both views side by side, or one large" },
  { keys: "X", does: "a crosshair that keys move, and away with it" },
  { keys: "← ↑ → ↓", does: "move the crosshair; Shift further, Alt by a pixel" },
  { keys: "Enter, Space", does: "click at the crosshair; hold and let go" },
  { keys: "N, Shift N", does: "crosshair to the next node, to the one before (Shape, Nodes)" },
  { keys: ". ,", does: "next rough spot, the one before (Trace)" },
  { keys: "Delete", does: "leave out what is picked; in Shape throw it away" },
  { keys: "← ↑ → ↓", does: "nudge what is picked by the set step; with Shift tenfold (Shape)" },
  { keys: "Ctrl A", does: "pick everything (Shape)" },
  { keys: "Ctrl D", does: "duplicate in place (Shape)" },
  { keys: "Ctrl G, Ctrl Shift G", does: "group, ungroup (Shape)" },
  { keys: "Shift, Alt while dragging", does: "add to what is picked; only what lies wholly inside (Shape)" },
  { keys: "Enter, Backspace", does: "close the pen's line, undo its last click" },
  { keys: "Esc", does: "clear the pick, put a tool down" },
  { keys: "?", does: "this list" },
];

export const SPOT_EVENT = "drelo-spot";
export const HELP_EVENT = "drelo-help";
export const ZOOM_EVENT = "drelo-zoom";

export function useShortcuts(): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const { undo, redo, pick, setStop, piece, stop, draft } = useBench.getState();
      const typing = takesLetters(event.target);
      const command = event.ctrlKey || event.metaKey;
      // In a field letters are taken back one by one while they are not kept yet; what was kept, as anywhere else.
      const letters = typing && (event.target as HTMLElement).dataset.draft !== undefined;
      if (command && event.key.toLowerCase() === "z" && !letters) {
        event.preventDefault();
        // An edit that is on its way can be undone as well.
        if (event.shiftKey ? piece?.can_redo : piece?.can_undo || draft) (event.shiftKey ? redo : undo)();
      } else if (command && event.key.toLowerCase() === "y" && !letters) {
        event.preventDefault();
        if (piece?.can_redo) redo();
      } else if (event.altKey && /^Digit[1-5]$/.test(event.code)) {
        event.preventDefault();
        const stop = STOPS[Number(event.code.slice(5)) - 1];
        if (stop) setStop(stop);
      } else if (!typing && stop === "Shape" && shapeKey(event)) {
        event.preventDefault();
      } else if (!typing && !command && event.key === "Escape") {
        pick(null, false);
      } else if (!typing && !command && event.key === "Delete") {
        leaveOut();
      } else if (!typing && !command && (event.key === "." || event.key === ",")) {
        window.dispatchEvent(new CustomEvent(SPOT_EVENT, { detail: event.key === "." ? 1 : -1 }));
      } else if (!typing && !command && !event.altKey && event.key.toLowerCase() === "v") {
        swapViews();
      } else if (!typing && !command && !event.altKey && event.key.toLowerCase() === "b") {
        bothViews();
      } else if (!typing && !command && event.key === "?") {
        window.dispatchEvent(new Event(HELP_EVENT));
      } else if (!typing && !command && ["+", "-", "0", "="].includes(event.key)) {
        window.dispatchEvent(new CustomEvent(ZOOM_EVENT, { detail: event.key }));
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}

const WITHOUT_LETTERS: ReadonlySet<string> = new Set([
  "checkbox",
  "radio",
  "range",
  "color",
  "file",
  "button",
]);

/** Whether what has the focus takes letters; a check box or a slider does not. */
function takesLetters(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !WITHOUT_LETTERS.has(target.type);
  return target instanceof HTMLTextAreaElement;
}

/** Regions that are picked are not raised any more; a line of the pen is thrown away. */
export function leaveOut(): void {
  const { picked, flat, commit } = useBench.getState();
  const regions = flat?.regions.filter((r) => picked.includes(r.id) && !r.left_out) ?? [];
  if (regions.length) commit(regionsEdit(regions, { left_out: true }));
}
