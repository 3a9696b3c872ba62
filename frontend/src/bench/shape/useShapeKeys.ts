import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { currentItems, duplicate, group } from "./changes";
import { idsOf, namesOf, pickedItems, seed, type Item } from "./objects";
import { useShape } from "./state";

const WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** With Shift a nudge is so many steps. */
const FAR = 10;

/** Keys that work on what is picked in Shape. */
export function useShapeKeys(): void {
  useKeys("stop", {
    "pick-all": () =>
      useBench.getState().pickAll(
        currentItems()
          .filter((i) => !i.thing?.locked)
          .flatMap(namesOf),
      ),
    nudge: ({ key, shiftKey }) =>
      withPicked((picked) => nudge(picked, WAYS[key] ?? [0, 0], shiftKey ? FAR : 1)),
    "throw-away": () =>
      withPicked((picked) => useBench.getState().commit({ do: "remove", picked: idsOf(picked) })),
    duplicate: () => withPicked(duplicate),
    group: () => withPicked((picked) => group(picked, true)),
    ungroup: () => withPicked((picked) => group(picked, false)),
  });
}

function withPicked(change: (picked: readonly Item[]) => void): boolean {
  const picked = pickedItems(currentItems(), useBench.getState().picked);
  if (!picked.length) return false;
  change(picked);
  return true;
}

/** Moves nodes that are picked, or else things, by so many of the set steps. */
function nudge(picked: readonly Item[], [x, y]: readonly [number, number], steps: number): void {
  const { tool, commit } = useBench.getState();
  const { nodes, nudge: step } = useShape.getState();
  const by: [number, number] = [x * step * steps, y * step * steps];
  if (tool === "nodes" && nodes)
    commit({ do: "move-nodes", id: nodes.id, contour: nodes.contour, nodes: [...nodes.at], by });
  else
    commit({
      do: "transform",
      seed: seed(),
      picked: idsOf(picked),
      matrix: [1, 0, 0, 1, ...by],
      copies: 0,
    });
}
