import { useMemo } from "react";

import { useProve } from "../prove/state";
import { useRehearsal } from "../prove/useRehearsal";
import { useTroubles } from "../prove/useTroubles";
import { useBench } from "../store";

/** at: mm, the solid's box at 0. */
export type Pin = { at: [number, number, number]; picked: boolean };

/** Places of the solid that will not print, as it stands on the bed; at Prove up to the layer that is looked at. */
export function usePins(): readonly Pin[] {
  const stop = useBench((s) => s.stop);
  const troubles = useTroubles();
  const { data: rehearsed } = useRehearsal();
  const faceDown = useBench((s) => Boolean(s.piece?.document.printing.face_down));
  const picked = useProve((s) => s.trouble);
  const layer = useProve((s) => s.layer);
  return useMemo(() => {
    const report = rehearsed?.report;
    if (!report) return [];
    const [left, low] = report.corner;
    const [, deep, high] = report.size;
    // Where the piece is not shown as it is printed, it is turned back.
    const back = faceDown && stop !== "Prove";
    const top = stop !== "Prove" || layer === null ? Infinity : (report.layers[layer]?.top ?? Infinity);
    return (troubles ?? []).flatMap(({ kind, at, z }, i) =>
      z <= top + 1e-6 && kind !== "too large" && kind !== "too tall"
        ? [
            {
              at: [at[0] - left, back ? deep - at[1] + low : at[1] - low, back ? high - z : z],
              picked: picked === i,
            },
          ]
        : [],
    );
  }, [stop, troubles, rehearsed, picked, layer, faceDown]);
}
