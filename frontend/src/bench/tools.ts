import type { CareTool } from "./care";
import { CARE_HINTS } from "./care";

export type SheetTool =
  | "nodes"
  | "ease"
  | "straighten"
  | "arc"
  | "trim"
  | "line"
  | "form"
  | "words"
  | "pour"
  | "tie"
  | "loop"
  | "measure"
  | "mirror-line"
  | "turn-centre"
  | "level-two"
  | "fill-colour";

/** What the pointer does on the flat view, other than pick and pan. */
export type Tool = CareTool | "place" | "area-box" | "area-free" | "colour" | "pen" | SheetTool;

export const SHAPE_HINTS: Record<SheetTool, string> = {
  nodes:
    "Drag nodes and handles; double-click the outline for a node more, Alt frees a handle, Delete takes nodes out.",
  ease: "Rub along a stretch until it is calm. Escape puts the brush down.",
  straighten: "Click both ends of the stretch that is to be straight.",
  arc: "Click both ends of the stretch that is to be an arc.",
  trim: "Click the stretch between two crossings that is to go.",
  line: "Click point by point, or type where. Shift keeps to 15°. Enter closes the line, Escape leaves it open.",
  form: "Drag from corner to corner; Alt from the middle, Shift as wide as high. A click sets it by its numbers.",
  words: "Click where the words are to stand.",
  pour: "Click inside an area that lines enclose.",
  tie: "Click one part, then the other; or let ties be proposed.",
  loop: "Click where the middle of the hole is to be.",
  measure: "Click two places to measure between them.",
  "mirror-line": "Click two places of the line that mirrors.",
  "turn-centre": "Click the centre that what you draw is repeated round.",
  "level-two": "Click two places that should lie level.",
  "fill-colour": "Click a colour in the picture; what is picked takes it.",
};

export const TOOL_HINTS: Record<Tool, string> = {
  ...CARE_HINTS,
  ...SHAPE_HINTS,
  place: "Drag the picture; its corners size it, the knob turns it, Shift by steps of 15°. Escape ends.",
  "area-box": "Drag a box round what is to be traced. Escape gives up.",
  "area-free": "Draw round what is to be traced. Escape gives up.",
  colour: "Click a colour in the picture. Escape gives up.",
  pen: "Click along an edge. Enter or the start closes, Backspace takes a click back, Escape ends.",
};

export function isSheetTool(tool: Tool | null): tool is SheetTool {
  return tool !== null && tool in SHAPE_HINTS;
}
