import { useBench } from "../store";
import { layerOf, useProve } from "./state";
import { useRehearsal } from "./useRehearsal";

const HAIR = 0.01;

/** How high the print stands after the layer that is looked at, as a share of the whole; null: all of it stands. */
export function useStanding(): number | null {
  const stop = useBench((s) => s.stop);
  const chosen = useProve((s) => s.layer);
  const { data: rehearsed } = useRehearsal();
  const layers = rehearsed?.report.layers;
  if (stop !== "Prove" || !layers?.length) return null;
  const layer = layerOf(chosen, layers.length);
  if (layer === layers.length - 1) return null;
  // A hair above the layer, so that faces just there are drawn whole.
  return ((layers[layer]?.top ?? 0) + HAIR) / (layers.at(-1)?.top ?? 1);
}
