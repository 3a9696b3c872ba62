import { areRecipe, isDrawing } from "../ui/kinds";
import { useNotices } from "../ui/notices";
import { hasBegun } from "./begun";
import { fromWindow, type Point } from "./flat/place";
import { useShape } from "./shape/state";
import { useBench } from "./store";

/**
 * Files for the open piece: pictures are laid on the sheet one after the other, the first one where it was dropped; a
 * drawing is looked at before it is placed.
 */
export async function takeFiles(files: readonly File[], at: Point | null = null): Promise<void> {
  if (areRecipe(files))
    return useNotices
      .getState()
      .refuse("An archive or a recipe makes a piece of its own: drop it on the page of all pieces.");
  const { piece, putPicture, setStop } = useBench.getState();
  const place = at && piece && hasBegun(piece.document) ? fromWindow(at) : null;
  const pictures = files.filter((file) => !isDrawing(file));
  const drawing = files.find(isDrawing);
  for (const [number, picture] of pictures.entries())
    await putPicture(picture, { at: number === 0 ? place : null });
  if (!drawing) return;
  useShape.getState().set({ part: "Draw", brought: drawing });
  setStop("Shape");
}
