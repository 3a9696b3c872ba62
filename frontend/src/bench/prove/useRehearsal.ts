import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { api, bytes, data, Refused } from "../../api/client";
import { useBench } from "../store";
import { useRested } from "../useLookOver";
import type { Rehearsed } from "./state";

/** What a rehearsal must be of so that its places still lie where they were found: the piece, its form and its size. */
export const artOf = ({ piece, flat }: ReturnType<typeof useBench.getState>) =>
  `${piece?.id} ${piece?.document.form} ${flat?.width} ${flat?.height}`;

/** A line of a layer: its kind's number, its width (mm), its points in steps, x and y in turn. */
export type Line = readonly [number, number, readonly number[]];
export type Pattern = { step: number; lines: readonly Line[]; missing: readonly (readonly number[])[] };

/** Where its troubles are not seen, the rehearsal is made when the hand rests this long (ms), so that Prove finds it ready. */
const AHEAD_MS = 1500;
/** Of more regions it takes so long that it is made only where it is looked at. */
const AHEAD_REGIONS = 400;

/** The rehearsal of the piece as it stands; the one before stays until it is there. */
export function useRehearsal() {
  const piece = useBench((s) => s.piece);
  const stop = useBench((s) => s.stop);
  const of = useBench(artOf);
  // At Prove it is what is looked at; at Raise it can wait until the hand rests.
  const now = `${piece?.id} ${piece?.revision}`;
  const rested = useRested(now);
  const restedLong = useRested(now, AHEAD_MS);
  const isQuick = useBench((s) => (s.flat?.regions.length ?? 0) <= AHEAD_REGIONS);
  const stands = useBench((s) => Boolean(s.flat?.base_path || s.flat?.regions.some((r) => !r.left_out)));
  return useQuery({
    queryKey: ["rehearsal", piece?.id, piece?.revision],
    enabled:
      piece !== null && stands && (stop === "Prove" || (stop === "Raise" ? rested : restedLong && isQuick)),
    queryFn: async ({ signal }): Promise<Rehearsed> => ({
      of,
      ...(await data(
        api.POST("/api/pieces/{piece_id}/rehearsal", {
          params: { path: { piece_id: piece?.id ?? "" } },
          body: { revision: piece?.revision ?? 0 },
          signal,
        }),
      )),
    }),
    placeholderData: (before: Rehearsed | undefined, query): Rehearsed | undefined =>
      query?.queryKey[1] === piece?.id ? before : undefined,
    staleTime: Infinity,
    refetchOnWindowFocus: false,
    retry: (count, error) => error instanceof Refused && error.superseded && count < 3,
  });
}

/** How often it is asked how far a rehearsal is, ms: until its first layers are there, or for so many times, and then on. */
const SOON = 120;
const LATER = 500;
const TIMES = 30;

/**
 * What is known of a rehearsal while it goes on. share: how much of it is done, 0 to 1. first: its lowest layers, as a
 * rehearsal of no more than these.
 */
export function useUnderway(waiting: boolean): {
  share: number | null;
  first: Pick<Rehearsed, "key" | "printer" | "report"> | undefined;
} {
  const id = useBench((s) => s.piece?.id) ?? "";
  const revision = useBench((s) => s.piece?.revision) ?? 0;
  const { data: how } = useQuery({
    queryKey: ["underway", id, revision],
    enabled: waiting,
    queryFn: async ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/rehearsal", {
          params: { path: { piece_id: id }, query: { revision } },
          signal,
        }),
      ),
    refetchInterval: ({ state }) => (state.data?.first || state.dataUpdateCount > TIMES ? LATER : SOON),
    gcTime: 0,
    retry: false,
  });
  const key = how?.first ?? "";
  const { data: report } = useQuery({
    queryKey: ["first layers", key],
    enabled: waiting && key !== "",
    queryFn: async ({ signal }) =>
      data(api.GET("/api/rehearsals/{key}", { params: { path: { key } }, signal })),
    gcTime: 0,
    retry: false,
  });
  return {
    share: waiting ? (how?.share ?? null) : null,
    first: waiting && how && report ? { key, printer: how.printer, report } : undefined,
  };
}

/**
 * The lines of a layer, a pattern for each of its parts; undefined where they are still on their way. made: when the
 * rehearsal was, so that lines that were lost are asked for anew.
 */
export function usePatterns(
  rehearsed: Pick<Rehearsed, "key" | "report"> | undefined,
  layer: number,
  made: number,
): (Pattern | undefined)[] {
  const parts = rehearsed?.report.layers[layer]?.parts ?? [];
  // The layers that come next are fetched while this one is looked at.
  const next = [layer + 1, layer - 1].flatMap((near) => rehearsed?.report.layers[near]?.parts ?? []);
  const key = rehearsed?.key ?? "";
  const found = useQueries({
    queries: [...new Set([...parts, ...next].map((part) => part.pattern))].map((pattern) => ({
      queryKey: ["pattern", key, made, pattern],
      queryFn: () => patternOf(key, pattern),
      staleTime: Infinity,
      gcTime: 60_000,
    })),
    combine: (results) => ({
      lines: results.map((result) => result.data),
      lost: results.some((result) => result.isError),
    }),
  });
  const queries = useQueryClient();
  // What was cleared away meanwhile is made again.
  useEffect(() => {
    if (found.lost) void queries.invalidateQueries({ queryKey: ["rehearsal"] });
  }, [found.lost, queries]);
  const order = [...new Set([...parts, ...next].map((part) => part.pattern))];
  return parts.map((part) => found.lines[order.indexOf(part.pattern)]);
}

async function patternOf(key: string, pattern: number): Promise<Pattern> {
  const sent = await bytes(
    api.GET("/api/rehearsals/{key}/patterns/{pattern}", {
      params: { path: { key, pattern } },
      parseAs: "arrayBuffer",
    }),
  );
  return JSON.parse(new TextDecoder().decode(sent)) as Pattern;
}
