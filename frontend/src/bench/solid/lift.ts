import type { Edit, Flat } from "../../api/client";

/** What of a solid goes along with the heights of regions, as the surface says it. */
export type Rising = {
  regions: readonly string[];
  /** mm, of the regions that can be moved alone. */
  heights: Readonly<Record<string, number>>;
  /** Rows of four: first triangle, how many, whose height the lower and the upper corners go with; -1 for none. */
  rising: readonly number[];
  /** The triangle from which on there are only walls of no height, between regions that are level. */
  standing: number;
};

/** Loose triangles: three numbers a corner, and four for its normal of which the last counts for nothing. */
export type Corners = { points: Float32Array; normals: Int8Array };

/** Heights (mm) nearer than this are the same. */
const SAME = 1e-4;

/**
 * By how much each region must be moved so that the solid stands as it is wanted, mm; null: nothing moves. edits: those
 * that are not stored yet, in order.
 */
export function risesTo(
  rising: Rising,
  flat: Flat | null,
  edits: readonly (Edit | null)[],
): Map<string, number> | null {
  const wanted = new Map<string, number | "through" | null>();
  for (const edit of edits) {
    if (edit?.do !== "set-regions") continue;
    for (const { id } of edit.picked) if (edit.height !== undefined) wanted.set(id, edit.height);
  }
  const rises = new Map<string, number>();
  for (const region of flat?.regions ?? []) {
    const stands = rising.heights[region.id];
    const height = wanted.get(region.id) ?? region.height;
    // What is no longer raised has another shape: that comes with the next solid.
    if (stands === undefined || typeof height !== "number" || height <= 0) continue;
    if (Math.abs(height - stands) > SAME) rises.set(region.id, height - stands);
  }
  return rises.size ? rises : null;
}

/** Whether all that an edit changes of a solid is how high regions of it stand that can be moved. */
export function movesAlone({ heights }: Rising, edit: Edit | null): boolean {
  if (edit?.do !== "set-regions" || typeof edit.height !== "number" || edit.height <= 0) return false;
  const { filament, name, left_out, edge } = edit;
  const more = [filament, name, left_out, edge].some((value) => value !== undefined && value !== null);
  return !more && edit.picked.every((region) => region.id in heights);
}

/** Whether two ways of moving regions are the same. */
export function sameRises(
  one: ReadonlyMap<string, number> | null,
  other: ReadonlyMap<string, number> | null,
) {
  if (!one || !other || one.size !== other.size) return one === other;
  return [...one].every(([region, by]) => Math.abs(by - (other.get(region) ?? Infinity)) <= SAME);
}

/**
 * Sets corners to those of a solid with regions moved up or down; a wall whose foot comes over its head faces the other
 * way by itself. Returns how many triangles there are to draw.
 */
export function lift(
  into: Corners,
  still: Corners,
  rising: Rising,
  rises: ReadonlyMap<string, number>,
): number {
  into.points.set(still.points);
  into.normals.set(still.normals);
  const by = rising.regions.map((region) => rises.get(region) ?? 0);
  const z = (corner: number) => still.points[corner * 3 + 2] ?? 0;
  const rows = rising.rising;
  let drawn = rising.standing;
  for (let row = 0; row + 3 < rows.length; row += 4) {
    const first = rows[row] ?? 0;
    const many = rows[row + 1] ?? 0;
    const isTop = rows[row + 2] === rows[row + 3];
    const low = by[rows[row + 2] ?? -1] ?? 0;
    const high = by[rows[row + 3] ?? -1] ?? 0;
    if (!low && !high) continue;
    if (first >= rising.standing && low !== high) drawn = still.points.length / 9;
    const half = first + many / 2;
    // A top rests on one height in all its corners; of a wall the first corner is low, and the last one of all high.
    const turned = !isTop && z(first * 3 + 2) + high < z(first * 3) + low;
    for (let triangle = first; triangle < first + many; triangle++) {
      const corner = triangle * 3;
      into.points[corner * 3 + 2] = z(corner) + low;
      into.points[corner * 3 + 5] = z(corner + 1) + (triangle < half ? low : high);
      into.points[corner * 3 + 8] = z(corner + 2) + high;
      if (!turned) continue;
      for (let i = corner * 4; i < corner * 4 + 12; i++) into.normals[i] = -(into.normals[i] ?? 0);
    }
  }
  return drawn;
}
