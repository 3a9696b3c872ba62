import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, data, type Flat, type Schemas } from "../api/client";
import { usePicture, useUnderlay } from "./select";
import { useBench } from "./store";

/** The look over takes longer than a preview, so it waits until the hand rests this long (ms). */
const REST_MS = 700;

export type LookOver = Schemas["LookedOver"];
export type Spot = LookOver["spots"][number];

export const SPOT_WORDS: Record<Spot["kind"], string> = {
  untrue: "outline is off the picture",
  faint: "faint edge",
  off: "outline keeps off the edge",
  crowded: "many nodes close together",
  neck: "hair-thin neck",
  gap: "hair-thin gap",
};

/** Whether a value has stayed the same for so long (ms). */
export function useRested(value: string, ms = REST_MS): boolean {
  const [last, setLast] = useState("");
  useEffect(() => {
    const resting = setTimeout(() => setLast(value), ms);
    return () => clearTimeout(resting);
  }, [value, ms]);
  return last === value;
}

/** Narrow places and rough spots of the piece as it stands; asked for at Trace and Shape. */
export function useLookOver(): LookOver | undefined {
  const id = useBench((s) => s.piece?.id ?? "");
  const revision = useBench((s) => s.piece?.revision ?? 0);
  const some = useBench((s) => Boolean(s.flat?.regions.some((r) => !r.left_out)));
  const here = useBench((s) => s.stop === "Trace" || s.stop === "Shape");
  const rested = useRested(`${id} ${revision}`);
  return useQuery({
    queryKey: ["look-over", id, revision],
    queryFn: ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/look-over/{revision}", {
          params: { path: { piece_id: id, revision } },
          signal,
        }),
      ),
    enabled: here && some && id !== "" && rested,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  }).data;
}

/** The flat view as an attempt of the picture at hand would make it. */
export function useAttempt(attempt: string | null): Flat | undefined {
  const id = useBench((s) => s.piece?.id ?? "");
  const revision = useBench((s) => s.piece?.revision ?? 0);
  const picture = usePicture();
  const kept = picture?.attempts.find((a) => a.id === attempt);
  const look = useUnderlay()?.look;
  return useQuery({
    queryKey: ["attempt", id, kept, look, picture?.place],
    queryFn: ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/attempts/{revision}/{picture}/{attempt}", {
          params: { path: { piece_id: id, revision, picture: picture?.id ?? "", attempt: attempt ?? "" } },
          signal,
        }),
      ),
    enabled: Boolean(kept && look),
    staleTime: Infinity,
    retry: false,
  }).data;
}

/** What the picture at hand comes to when it is traced in a mode, small; nothing: when that is nothing at all. */
export function useWay(mode: "ink" | "colours" | "strokes"): { flat: Flat | undefined; nothing: boolean } {
  const id = useBench((s) => s.piece?.id ?? "");
  const revision = useBench((s) => s.piece?.revision ?? 0);
  const picture = usePicture();
  const look = useUnderlay()?.look;
  const trace = picture?.trace && { ...picture.trace, mode };
  const { data: flat, isError } = useQuery({
    queryKey: ["way", id, picture?.id, look, trace],
    queryFn: ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/ways/{revision}/{picture}/{mode}", {
          params: { path: { piece_id: id, revision, picture: picture?.id ?? "", mode } },
          signal,
        }),
      ),
    enabled: Boolean(picture && look),
    // While settings change, the last one stays.
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
  return { flat, nothing: isError };
}
