import type { Document, Edit } from "../api/client";

export type Source = NonNullable<Document["source"]>;
export type Step = Extract<Edit, { do: "set-care" }>["care"][number];
export type CareTool = "crop" | "level" | "flatten" | "rub" | "measure";

export const STEP_NAMES: Record<Step["do"], string> = {
  crop: "Cropped",
  level: "Levelled",
  flatten: "Flattened",
  even: "Light evened out",
  rub: "Rubbed out",
};

export const CARE_HINTS: Record<CareTool, string> = {
  crop: "Drag a box round what stays. Escape gives up.",
  level: "Drag along a line that should be level or upright. Escape gives up.",
  flatten: "Click the four corners of the sheet, one after another. Backspace takes one back.",
  measure: "Drag from one point to another whose distance you know. Escape gives up.",
  rub: "Rub over marks that should go. Escape puts the rubber down.",
};

/** The picture's care with one step more. */
export function careEdit(source: Source, step: Step): Edit {
  return { do: "set-care", care: [...(source.care ?? []), step] };
}

/** One step of the picture's care taken back, done again, or forgotten. */
export function careSwitch(at: number, state: "on" | "off" | "gone"): Edit {
  return { do: "switch-care", at, state };
}
