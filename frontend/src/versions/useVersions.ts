import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";

export type Version = Schemas["VersionOut"];
export type VersionList = Schemas["VersionList"];
export type Line = Schemas["LineOut"];
export type Step = Schemas["StepOut"];

export const versionsKey = (piece: string) => ["versions", piece] as const;

/** The past of a piece, the newest first. */
export function useVersions(piece: string) {
  return useQuery({
    queryKey: versionsKey(piece),
    queryFn: ({ signal }) =>
      data(api.GET("/api/pieces/{piece_id}/versions", { params: { path: { piece_id: piece } }, signal })),
    retry: false,
  });
}

/** A version, and what has changed since; the one before stays until it is there. */
export function useVersion(piece: string, revision: number | undefined, shown: number | undefined) {
  return useQuery({
    queryKey: [...versionsKey(piece), revision, shown],
    queryFn: ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/versions/{revision}", {
          params: { path: { piece_id: piece, revision: revision ?? 0 } },
          signal,
        }),
      ),
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}
