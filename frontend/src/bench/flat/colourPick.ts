import { useNotices } from "../../ui/notices";
import { groupsOf } from "../stops/trace/groups";
import { useBench } from "../store";
import { pictureOf, underlayOf } from "../select";
import { inPicture, type Point } from "./place";

/** The colour is averaged over so many pixels to either side. */
const AROUND = 1;

/** Takes the colour at a place of the sheet (mm) as one more colour of the trace of the picture that lies there. */
export async function pickColour(look: string, at: Point): Promise<void> {
  const { piece, flat, picture: chosen, area, commit, setTool } = useBench.getState();
  const picture = pictureOf(piece?.document, chosen);
  const underlay = underlayOf(flat, picture?.id);
  if (!picture || !underlay) return;
  const [x, y] = inPicture(at, underlay);
  const colour = await colourAt(look, x, y);
  if (!colour || !piece || !flat) {
    useNotices.getState().refuse("There is no colour there. Click inside the picture.");
    return;
  }
  const own = picture.areas.find((a) => a.id === area) ?? picture.areas[0];
  const settings = own?.trace ?? picture.trace;
  const trace = flat.traces.find((t) => t.picture === picture.id && t.area === (own?.id ?? null));
  const groups = groupsOf(settings.palette, trace?.swatches ?? []);
  setTool(null);
  if (groups.some((g) => g.includes(colour))) return;
  commit({ do: "set-trace", picture: picture.id, area: own?.id ?? null, palette: [...groups, [colour]] });
}

async function colourAt(look: string, x: number, y: number): Promise<string | null> {
  const image = new Image();
  image.src = look;
  await image.decode();
  if (x < 0 || y < 0 || x >= image.naturalWidth || y >= image.naturalHeight) return null;
  const side = 2 * AROUND + 1;
  const canvas = Object.assign(document.createElement("canvas"), { width: side, height: side });
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) return null;
  context.drawImage(image, Math.floor(x) - AROUND, Math.floor(y) - AROUND, side, side, 0, 0, side, side);
  const { data } = context.getImageData(0, 0, side, side);
  const sums = [0, 0, 0];
  let weight = 0;
  for (let i = 0; i < data.length; i += 4) {
    const share = (data[i + 3] ?? 0) / 255;
    weight += share;
    for (let k = 0; k < 3; k++) sums[k] = (sums[k] ?? 0) + share * (data[i + k] ?? 0);
  }
  if (weight < 1) return null;
  return (
    "#" +
    sums
      .map((s) =>
        Math.round(s / weight)
          .toString(16)
          .padStart(2, "0"),
      )
      .join("")
  );
}
