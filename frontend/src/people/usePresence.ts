import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, data, type Schemas } from "../api/client";
import { useBench } from "../bench/store";
import { useMe, usePerson } from "./me";

/** So often (ms) a page asks what others did where it cannot listen for it. */
const EVERY_MS = 3000;

type Here = Schemas["HereOut"];
const key = (piece: string | undefined) => ["here", piece];

/** Who else has the open piece open; what they change is shown as soon as it is heard of. */
export function usePresence(): readonly string[] {
  const shared = useMe((s) => s.me?.shared ?? false);
  const me = usePerson();
  const piece = useBench((s) => s.piece?.id);
  const there = shared && me !== null && piece !== undefined;
  const listens = useEvents(there ? piece : undefined);
  const here = useQuery({
    queryKey: key(piece),
    queryFn: () =>
      data(api.POST("/api/pieces/{piece_id}/here", { params: { path: { piece_id: piece ?? "" } } })),
    enabled: there && !listens,
    refetchInterval: EVERY_MS,
    retry: false,
  });
  const { revision, by } = here.data ?? {};
  useEffect(() => {
    const { piece: open, catchUp } = useBench.getState();
    if (revision !== undefined && open && revision !== open.revision) void catchUp(by ?? null);
  }, [revision, by]);
  return here.data?.others ?? [];
}

/** Listens for news of a piece while the page is seen; whether it does, or may yet. */
function useEvents(piece: string | undefined): boolean {
  const queries = useQueryClient();
  const [listens, setListens] = useState(true);
  useEffect(() => {
    if (piece === undefined) return;
    let events: EventSource | null = null;
    const open = () => {
      // A browser keeps few connections to one server: a page that nobody sees leaves its own to others.
      if (document.hidden || events) return;
      events = new EventSource(`/api/pieces/${piece}/events`);
      events.onopen = () => setListens(true);
      events.onmessage = ({ data: text }: MessageEvent<string>) =>
        queries.setQueryData(key(piece), JSON.parse(text) as Here);
      // Refused, it does not try again by itself; broken off, it does.
      events.onerror = () => setListens(events?.readyState !== EventSource.CLOSED);
    };
    const close = () => {
      events?.close();
      events = null;
    };
    const seen = () => (document.hidden ? close() : open());
    open();
    document.addEventListener("visibilitychange", seen);
    return () => {
      document.removeEventListener("visibilitychange", seen);
      close();
    };
  }, [piece, queries]);
  return listens;
}
