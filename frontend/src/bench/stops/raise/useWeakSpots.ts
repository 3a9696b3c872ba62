import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../../../api/client";
import { useBench } from "../../store";
import { useRested } from "../../useLookOver";

export type WeakPlace = Schemas["WeakPlace"];

export const WEAK_WORDS: Record<WeakPlace["kind"], string> = {
  "thin wall": "thin wall",
  "tight gap": "gap that closes up",
  "loose part": "loose part",
  "in the air": "starts in mid-air",
  "below a layer": "thinner than a layer",
};
export const MEND_WORDS: Record<WeakPlace["kind"], string> = {
  "thin wall": "thicken",
  "tight gap": "close",
  "loose part": "tie",
  "in the air": "",
  "below a layer": "raise to a layer",
};

/** Places of the piece as it stands that a print would not forgive; asked for at Raise and Prove when the hand rests. */
export function useWeakSpots(): readonly WeakPlace[] | undefined {
  const id = useBench((s) => s.piece?.id ?? "");
  const revision = useBench((s) => s.piece?.revision ?? 0);
  const some = useBench((s) => Boolean(s.flat?.regions.some((r) => !r.left_out)));
  const here = useBench((s) => s.stop === "Raise" || s.stop === "Prove");
  const of = useBench((s) => `${id} ${s.piece?.document.form} ${s.flat?.width} ${s.flat?.height}`);
  const rested = useRested(`${id} ${revision}`);
  const found = useQuery({
    queryKey: ["weak-spots", id, revision],
    queryFn: async ({ signal }) => ({
      of,
      places: (
        await data(
          api.GET("/api/pieces/{piece_id}/weak-spots/{revision}", {
            params: { path: { piece_id: id, revision } },
            signal,
          }),
        )
      ).places,
    }),
    enabled: here && some && id !== "" && rested,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
  // What was found of another form, or of art of another size, lies nowhere any more.
  return here && some && found.data?.of === of ? found.data.places : undefined;
}
