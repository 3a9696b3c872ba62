import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Schemas } from "../api/client";
import { useNotices } from "../ui/notices";

export type Device = Schemas["DeviceOut"];
export type Status = NonNullable<Device["status"]>;
export type Print = Schemas["PrintOut"];
type Act = Omit<Schemas["ActOnPrint"], "why">;

const DEVICE = ["device"];
/** How often a printer that works is looked at, and one that does not, ms. */
const AT_WORK = 1000;
const AT_REST = 5000;

const WORKS = new Set(["warming up", "printing", "changing filament"]);
const HOLDS = new Set(["waiting for a change", "paused", "out of filament"]);
export const isAtWork = (status: Status | null | undefined) => Boolean(status && WORKS.has(status.phase));
export const isOpen = (status: Status | null | undefined) =>
  Boolean(status && (WORKS.has(status.phase) || HOLDS.has(status.phase)));

/** What the printer is at, looked at again and again, and what can be done with it. */
export function usePrinter() {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const device = useQuery({
    queryKey: DEVICE,
    queryFn: ({ signal }) => data(api.GET("/api/printer", { signal })),
    refetchInterval: ({ state }) => (isAtWork(state.data?.status) ? AT_WORK : AT_REST),
  });
  const onSuccess = (next: Device) => {
    queries.setQueryData(DEVICE, next);
    void queries.invalidateQueries({ queryKey: ["prints"] });
  };
  const onError = (error: Error) => {
    refuse(error.message);
    void queries.invalidateQueries({ queryKey: DEVICE });
  };
  const act = useMutation({
    mutationFn: ({ job, ...body }: Act & { job: string }) =>
      data(api.POST("/api/prints/{job}", { params: { path: { job } }, body })),
    onSuccess,
    onError,
  });
  const pace = useMutation({
    mutationFn: (times: Status["speed"]) => data(api.PUT("/api/printer/pace", { body: { times } })),
    onSuccess,
    onError,
  });
  const print = useMutation({
    mutationFn: (what: { piece: string; revision: number; bed: number } | { plan: string; bed: number }) =>
      "piece" in what
        ? data(
            api.POST("/api/pieces/{piece_id}/print", {
              params: { path: { piece_id: what.piece } },
              body: { revision: what.revision, bed: what.bed },
            }),
          )
        : data(
            api.POST("/api/beds/{plan}/{bed}/print", {
              params: { path: { plan: what.plan, bed: what.bed } },
            }),
          ),
    onSuccess,
    onError,
  });
  // What has ended stands in the history, and the spools weigh less.
  const phase = device.data?.status?.phase;
  const before = useRef(phase);
  useEffect(() => {
    if (before.current !== phase) {
      void queries.invalidateQueries({ queryKey: ["prints"] });
      void queries.invalidateQueries({ queryKey: ["filaments"] });
    }
    before.current = phase;
  }, [phase, queries]);
  return { device: device.data, act, pace, print };
}

/** What was printed, of a piece or of everything. */
export function usePrints(piece?: string) {
  return useQuery({
    queryKey: ["prints", piece ?? ""],
    queryFn: ({ signal }) =>
      data(api.GET("/api/prints", { params: { query: piece ? { piece } : {} }, signal })),
  }).data?.prints;
}
