import type { Document, Edit } from "../api/client";

export type Source = NonNullable<Document["source"]>;
export type Step = Extract<Edit, { do: "set-care" }>["care"][number];
export type Tool = "crop" | "level" | "flatten" | "rub";

export const STEP_NAMES: Record<Step["do"], string> = {
  crop: "Cropped",
  level: "Levelled",
  flatten: "Flattened",
  even: "Light evened out",
  rub: "Rubbed out",
};

export const TOOL_HINTS: Record<Tool, string> = {
  crop: "Drag a box round what stays. Escape gives up.",
  level: "Drag along a line that should be level or upright. Escape gives up.",
  flatten: "Click the four corners of the sheet, one after another. Backspace takes one back.",
  rub: "Rub over marks that should go. Escape puts the rubber down.",
};

/** The picture's care with one step more. */
export function careEdit(source: Source, step: Step): Edit {
  return { do: "set-care", care: [...(source.care ?? []), step] };
}

/** The picture's care without one of its steps. */
export function careWithout(source: Source, at: number): Edit {
  return { do: "set-care", care: (source.care ?? []).filter((_, i) => i !== at) };
}
