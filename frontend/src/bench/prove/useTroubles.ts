import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import { useBench } from "../store";
import type { Trouble } from "./state";
import { artOf, useRehearsal } from "./useRehearsal";

/** A trouble as the rehearsal measured it, with its place on the sheet and what would mend it. */
export type Placed = Trouble & { place: Schemas["TroublePlace"] };

/** What will not print as it is drawn; undefined until it is known of a piece of this form and size. */
export function useTroubles(): readonly Placed[] | undefined {
  const { data: rehearsed } = useRehearsal();
  const here = useBench((s) => s.stop === "Raise" || s.stop === "Prove");
  const of = useBench(artOf);
  return useMemo(() => {
    // What was found of another form, or of art of another size, lies nowhere any more.
    if (!here || rehearsed?.of !== of) return undefined;
    return rehearsed.report.troubles.flatMap((trouble, i) => {
      const place = rehearsed.prospects.places[i];
      return place ? [{ ...trouble, place }] : [];
    });
  }, [here, of, rehearsed]);
}
