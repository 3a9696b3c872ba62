import { useMemo } from "react";

import { useProve } from "../prove/state";
import { useRehearsal } from "../prove/useRehearsal";
import { useWeakSpots } from "../stops/raise/useWeakSpots";
import { useBench } from "../store";

/** at: mm, the solid's box at 0. width: of the place, mm. */
export type Pin = { at: [number, number, number]; width: number; picked: boolean };

/** Places of the solid that a print would not forgive: at Prove those that the rehearsal measured, as far as it stands. */
export function usePins(): readonly Pin[] {
  const stop = useBench((s) => s.stop);
  const spot = useBench((s) => s.spot);
  const places = useWeakSpots();
  const { data: rehearsed } = useRehearsal();
  const trouble = useProve((s) => s.trouble);
  const layer = useProve((s) => s.layer);
  return useMemo(() => {
    if (stop !== "Prove")
      return (places ?? []).map((place, i) => ({
        at: place.at_solid as [number, number, number],
        width: place.width,
        picked: spot === i,
      }));
    const report = rehearsed?.report;
    const top = layer === null ? Infinity : (report?.layers[layer]?.top ?? Infinity);
    return (report?.troubles ?? []).flatMap(({ at, z }, i) =>
      report && z <= top + 1e-6
        ? [{ at: [at[0] - report.corner[0], at[1] - report.corner[1], z], width: 0, picked: trouble === i }]
        : [],
    );
  }, [stop, places, spot, rehearsed, trouble, layer]);
}
