import { areRecipe, isDrawing } from "../ui/kinds";
import { useNotices } from "../ui/notices";
import { useShape } from "./shape/state";
import { useBench } from "./store";

/** A file for the open piece: a drawing is looked at before it is placed, a picture becomes what is traced. */
export function takeFiles(files: readonly File[]) {
  const [file] = files;
  if (!file) return;
  if (areRecipe(files))
    return useNotices
      .getState()
      .refuse("A recipe makes a piece of its own: drop it on the page of all pieces.");
  if (!isDrawing(file)) return void useBench.getState().putPicture(file);
  useShape.getState().set({ part: "Draw", brought: file });
  useBench.getState().setStop("Shape");
}
