import type { Flat } from "../../api/client";

/** What of the picked is still there; a region that was traced anew is the one that lies where it lay. */
export function stillPicked(
  picked: readonly string[],
  before: Flat | null,
  after: Flat,
  retraced: boolean,
): readonly string[] {
  const ids = new Set([...after.regions.filter((r) => !r.left_out), ...after.things].map((r) => r.id));
  return picked.flatMap((id) => {
    if (ids.has(id)) return [id];
    if (!retraced) return [];
    const old = before?.regions.find((r) => r.id === id);
    const [x, y] = old?.mark.anchor ?? [NaN, NaN];
    const near = after.regions.filter(
      ({ mark: { box } }) => x >= box[0] && x <= box[2] && y >= box[1] && y <= box[3],
    );
    const smallest = near.sort((a, b) => a.area - b.area)[0];
    return smallest ? [smallest.id] : [];
  });
}
