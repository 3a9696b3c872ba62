/** A row of the table of keys: what is pressed, what it does, and when it is let through. */
export type Row = {
  /** Any of these; "Mod" is Ctrl or Command, "Shift?" with or without. One sign that is no letter comes with any. */
  chords: readonly string[];
  /** As the list of keys shows it; rows without are not listed. */
  keys?: string;
  does?: string;
  /** Also while letters are typed. */
  typing?: true;
  /** Also where a control has a use for the key itself. */
  control?: true;
};

const ARROWS = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown"] as const;

/** Every key of the bench, in the order of the list that "?" shows. What a key does is given with `useKeys`. */
export const KEYS = {
  undo: { chords: ["Mod+z"], keys: "Ctrl Z", does: "undo", typing: true },
  redo: { chords: ["Mod+Shift+z", "Mod+y"], keys: "Ctrl Shift Z", does: "redo", typing: true },
  "go-to-stop": {
    chords: ["Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5"],
    keys: "Alt 1 … 5",
    does: "go to a stop: Gather, Trace, Shape, Raise, Prove",
    typing: true,
  },
  zoom: { chords: ["+", "=", "-"], keys: "+ −", does: "zoom the flat view" },
  fit: { chords: ["0"], keys: "0", does: "fit the flat view" },
  "swap-views": { chords: ["v"], keys: "V", does: "swap the large view and the small one" },
  "both-views": { chords: ["b"], keys: "B", does: "both views side by side, or one large" },
  crosshair: { chords: ["Shift?+x"], keys: "X", does: "a crosshair that keys move, and away with it" },
  "crosshair-move": {
    chords: ARROWS.flatMap((way) => [`Shift?+${way}`, `Alt+Shift?+${way}`]),
    keys: "← ↑ → ↓",
    does: "move the crosshair; Shift further, Alt by a pixel",
    control: true,
  },
  "crosshair-click": {
    chords: ["Shift?+Enter"],
    keys: "Enter",
    does: "click at the crosshair",
    control: true,
  },
  "crosshair-hold": {
    chords: [" "],
    keys: "Space",
    does: "hold at the crosshair, and let go",
    control: true,
  },
  "crosshair-node": {
    chords: ["Shift?+n"],
    keys: "N, Shift N",
    does: "crosshair to the next node, to the one before (Shape, Nodes)",
  },
  "rough-spot": { chords: [".", ","], keys: ". ,", does: "next rough spot, the one before (Trace)" },
  "throw-away": {
    chords: ["Delete"],
    keys: "Delete",
    does: "leave out what is picked; in Shape throw it away",
  },
  nudge: {
    chords: ARROWS.flatMap((way) => [`Shift?+${way}`, `Alt+Shift?+${way}`]),
    keys: "← ↑ → ↓",
    does: "nudge what is picked by the set step; with Shift tenfold (Shape)",
  },
  "pick-all": { chords: ["Mod+a"], keys: "Ctrl A", does: "pick everything (Shape)" },
  duplicate: { chords: ["Mod+d"], keys: "Ctrl D", does: "duplicate in place (Shape)" },
  group: { chords: ["Mod+g"], keys: "Ctrl G", does: "group (Shape)" },
  ungroup: { chords: ["Mod+Shift+g"], keys: "Ctrl Shift G", does: "ungroup (Shape)" },
  "close-line": { chords: ["Shift?+Enter"], keys: "Enter", does: "close the line that is drawn" },
  "take-back": { chords: ["Backspace"], keys: "Backspace", does: "take its last click back" },
  "put-down": { chords: ["Shift?+Escape"], keys: "Esc", does: "put a tool down, clear the pick" },
  help: { chords: ["?"], keys: "?", does: "this list" },
} as const satisfies Record<string, Row>;

export type Action = keyof typeof KEYS;

/** What is done with keys by the browser or while the pointer is held, and is listed with the rest. */
export const BESIDES: readonly { keys: string; does: string }[] = [
  { keys: "Ctrl V", does: "paste the picture on the clipboard" },
  { keys: "Tab", does: "next control" },
  { keys: "↑ ↓", does: "step a number; with Shift tenfold" },
  { keys: "Shift, Alt while dragging", does: "add to what is picked; only what lies wholly inside (Shape)" },
];
