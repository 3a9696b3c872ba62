import { useBench } from "../store";
import { boxOf, idsOf, itemsOf, seed, type Item } from "./objects";

export function currentItems(): Item[] {
  const { flat, piece } = useBench.getState();
  return itemsOf(flat, piece?.document ?? null);
}

/** A copy of each on its place; the copies are picked. */
export function duplicate(picked: readonly Item[]): void {
  const name = seed();
  const { commit, pickAll } = useBench.getState();
  commit({ do: "transform", seed: name, picked: idsOf(picked), matrix: [1, 0, 0, 1, 0, 0], copies: 1 });
  pickAll(picked.map((_, i) => `${name}${i}c1`));
}

/** Makes one group of drawn things, or takes their groups apart. */
export function group(picked: readonly Item[], together: boolean): void {
  const ids = picked.filter((i) => i.thing).map((i) => i.id);
  if (ids.length) useBench.getState().commit({ do: "mark-drawn", ids, group: together ? seed() : "" });
}

/** Scales what is picked about its corner or its middle, moves it, turns it; numbers in mm. */
export function transform(
  picked: readonly Item[],
  change: {
    x?: number;
    y?: number;
    width?: number;
    height?: number;
    turn?: number;
    flip?: "x" | "y";
    free?: boolean;
  },
): void {
  const { flat, commit } = useBench.getState();
  const box = boxOf(picked);
  if (!flat || !box) return;
  let matrix: [number, number, number, number, number, number];
  if (change.width !== undefined || change.height !== undefined) {
    const sx = change.width !== undefined ? change.width / box.width : null;
    const sy = change.height !== undefined ? change.height / box.height : null;
    const [kx, ky] = change.free ? [sx ?? 1, sy ?? 1] : [sx ?? sy ?? 1, sx ?? sy ?? 1];
    const { x, y } = box;
    matrix = [kx, 0, 0, ky, x - kx * x, y - ky * y];
  } else if (change.turn !== undefined) {
    const [c, s] = [Math.cos((-change.turn * Math.PI) / 180), Math.sin((-change.turn * Math.PI) / 180)];
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    matrix = [c, s, -s, c, x - c * x + s * y, y - s * x - c * y];
  } else if (change.flip) {
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    matrix = change.flip === "x" ? [-1, 0, 0, 1, 2 * x, 0] : [1, 0, 0, -1, 0, 2 * y];
  } else {
    matrix = [1, 0, 0, 1, (change.x ?? box.x) - box.x, (change.y ?? box.y) - box.y];
  }
  if (matrix.every(Number.isFinite))
    commit({ do: "transform", seed: seed(), picked: idsOf(picked), matrix, copies: 0 });
}
