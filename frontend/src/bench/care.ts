import type { Edit, Picture } from "../api/client";

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
export function careEdit(picture: Picture, step: Step): Edit {
  return { do: "set-care", picture: picture.id, care: [...picture.care, step] };
}

/** One step of the picture's care taken back, done again, or forgotten. */
export function careSwitch(picture: Picture, at: number, state: "on" | "off" | "gone"): Edit {
  return { do: "switch-care", picture: picture.id, at, state };
}
