import type { CareTool } from "./care";
import { CARE_HINTS } from "./care";

/** What the pointer does on the flat view, other than pick and pan. */
export type Tool = CareTool | "area-box" | "area-free" | "colour" | "pen";

export const TOOL_HINTS: Record<Tool, string> = {
  ...CARE_HINTS,
  "area-box": "Drag a box round what is to be traced. Escape gives up.",
  "area-free": "Draw round what is to be traced. Escape gives up.",
  colour: "Click a colour in the picture. Escape gives up.",
  pen: "Click along an edge. Enter or the start closes, Backspace takes a click back, Escape ends.",
};
