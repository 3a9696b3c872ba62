import type { Document, Edit, Flat } from "../../api/client";
import { regionsEdit } from "../select";
import type { WeakPlace } from "../stops/raise/useWeakSpots";
import type { Report, Trouble } from "./state";

export type Mend = { name: string; edit: Edit };

/** The weak spot of a design that a trouble of its print comes from. */
const WEAK: Partial<Record<Trouble["kind"], WeakPlace["kind"]>> = {
  "not printed": "thin wall",
  "gap closes": "tight gap",
};
/** A spot nearer than this to a trouble, mm, is the same place. */
const NEAR = 1.5;
/** Heights nearer than this are the same, mm. */
const SAME = 0.011;
const BRIM = 5;

/** An edit that would mend a trouble, where there is one. */
export function mendOf(
  trouble: Trouble,
  report: Report,
  document: Document,
  flat: Flat,
  places: readonly WeakPlace[],
): Mend | null {
  if (trouble.kind === "little hold" && document.printing.manner.brim < BRIM)
    return {
      name: "Add a brim",
      edit: { do: "set-printing", manner: { ...document.printing.manner, brim: BRIM } },
    };
  if (trouble.kind === "between layers") return toLayer(trouble, document, flat);
  const weak = WEAK[trouble.kind];
  if (!weak) return null;
  const [x, y] = [trouble.at[0] - report.corner[0], trouble.at[1] - report.corner[1]];
  const away = (place: WeakPlace) => Math.hypot(place.at_solid[0] - x, place.at_solid[1] - y);
  const nearest = places
    .filter((place) => place.kind === weak && place.mend && away(place) < Math.max(NEAR, place.radius))
    .sort((a, b) => away(a) - away(b))[0];
  return nearest?.mend
    ? { name: weak === "thin wall" ? "Thicken it" : "Close it", edit: nearest.mend as Edit }
    : null;
}

/** The regions that end between two layers set to end at the nearer one. */
function toLayer(trouble: Trouble, document: Document, flat: Flat): Mend | null {
  if (document.form !== "relief" && document.form !== "nameplate") return null;
  const by = trouble.limit - trouble.value;
  const floor =
    document.form === "nameplate"
      ? (document.nameplate.thickness ?? 2.4)
      : document.base.shape === "none"
        ? 0
        : document.base.thickness;
  const mine = flat.regions.filter(
    (region) =>
      !region.left_out &&
      typeof region.height === "number" &&
      region.height > 0 &&
      Math.abs(floor + region.height - trouble.value) < SAME,
  );
  const height = mine[0]?.height;
  if (typeof height !== "number") return null;
  return {
    name: "Round to a layer",
    edit: regionsEdit(mine, { height: Number((height + by).toFixed(4)) }),
  };
}
