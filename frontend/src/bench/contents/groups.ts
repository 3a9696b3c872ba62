import type { Document, Flat, Region } from "../../api/client";

/** Regions by where they are from: the whole picture, each area of it, the pen. */
export function groups(
  flat: Flat | null,
  document: Document,
  shaping: boolean,
): { name: string; regions: Region[] }[] {
  const regions = (flat?.regions ?? []).filter((r) => !r.left_out && (!shaping || r.drawn === null));
  const several = document.pictures.length > 1;
  const areas = document.pictures.flatMap((picture) =>
    picture.areas.map((area) => ({
      name: several ? `${area.name}, ${picture.name}` : area.name,
      regions: regions.filter((r) => r.picture === picture.id && r.traced_in === area.id),
    })),
  );
  const whole = several
    ? document.pictures.map((picture) => ({
        name: picture.name,
        regions: regions.filter((r) => r.picture === picture.id && r.pen === null && r.traced_in === null),
      }))
    : [];
  const drawn = regions.filter((r) => r.pen !== null);
  const rest = regions.filter(
    (r) => r.pen === null && r.traced_in === null && (!several || r.picture === null),
  );
  return [
    ...whole.filter((group) => group.regions.length),
    ...areas,
    ...(rest.length || !(whole.length || areas.length || drawn.length || shaping)
      ? [{ name: "Regions", regions: rest }]
      : []),
    ...(drawn.length ? [{ name: "Drawn by the pen", regions: drawn }] : []),
  ];
}
