import { useNotices } from "../../ui/notices";
import { groupsOf } from "../stops/trace/groups";
import { useBench } from "../store";
import { freshId } from "../ids";
import { lookOf, pictureOf, underlayOf } from "../select";
import { inPicture, type Point } from "./place";

/** The colour is averaged over so many pixels to either side. */
const AROUND = 1;

/** The colour of the picture at hand at a place of the sheet (mm); null, said, where there is none. */
export async function colourOnSheet(at: Point): Promise<string | null> {
  const { piece, flat, picture: chosen } = useBench.getState();
  const underlay = underlayOf(flat, pictureOf(piece?.document, chosen)?.id);
  const colour =
    piece && underlay && (await colourAt(lookOf(piece.id, underlay.look), ...inPicture(at, underlay)));
  if (!colour) useNotices.getState().refuse("There is no colour there. Click inside the picture.");
  return colour ?? null;
}

/** Takes a colour from the picture: in Trace as one more colour to trace, else as one more filament. */
export async function pickColour(at: Point): Promise<void> {
  const { stop, setTool, commit } = useBench.getState();
  const colour = await colourOnSheet(at);
  if (!colour) return;
  setTool(null);
  if (stop === "Trace") return addToPalette(colour);
  commit({ do: "set-filament", id: freshId("f"), name: `Picked ${colour}`, colour, material: "PLA" });
}

function addToPalette(colour: string): void {
  const { piece, flat, picture: chosen, area, commit } = useBench.getState();
  const picture = pictureOf(piece?.document, chosen);
  if (!picture || !flat) return;
  const own = picture.areas.find((a) => a.id === area) ?? picture.areas[0];
  const settings = own?.trace ?? picture.trace;
  const trace = flat.traces.find((t) => t.picture === picture.id && t.area === (own?.id ?? null));
  const groups = groupsOf(settings.palette, trace?.swatches ?? []);
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
