import { useEffect, useRef, useState } from "react";

import { api, bytes, Refused, type Edit, type Flat } from "../../api/client";
import { Latest } from "../../api/latest";
import { useBench } from "../store";
import { whileDue } from "./due";
import { movesAlone } from "./lift";
import { readSolid, type Solid } from "./solid";

/** waiting: edits before the draft that are not stored yet. */
type Wish = { piece: string; revision: number; waiting: readonly Edit[]; draft: Edit | null };

/** A new trace is raised when the hand rests this long (ms), so that outlines keep up with it. */
const TRACE_REST_MS = 300;
/** What is shown already, moved on the screen, is raised when the hand rests this long (ms). */
const MOVED_REST_MS = 200;

async function fetchSolid(wish: Wish, signal: AbortSignal): Promise<Solid> {
  const asked = bytes(
    wish.draft
      ? api.POST("/api/pieces/{piece_id}/solid", {
          params: { path: { piece_id: wish.piece } },
          body: { revision: wish.revision, waiting: [...wish.waiting], edit: wish.draft },
          signal,
          parseAs: "arrayBuffer",
        })
      : api.GET("/api/pieces/{piece_id}/solid/{revision}", {
          params: { path: { piece_id: wish.piece, revision: wish.revision } },
          signal,
          parseAs: "arrayBuffer",
        }),
  );
  return readSolid(await whileDue(asked));
}

/** Whether there is any region to raise. */
export function somethingStands(flat: Flat | null): boolean {
  return Boolean(flat?.base_path || flat?.regions.some((r) => !r.left_out));
}

/** The solid as it stands, or as the hand would have it; the old one stays until the new one is there. */
export function useSolid(): { solid: Solid | null; problem: string | null } {
  const id = useBench((s) => (somethingStands(s.flat) ? (s.piece?.id ?? null) : null));
  const revision = useBench((s) => s.piece?.revision ?? null);
  const draft = useBench((s) => s.draft);
  const [solid, setSolid] = useState<Solid | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const latest = useRef<Latest<Wish, Solid> | null>(null);
  const asked = useRef<Wish | null>(null);
  const standing = useRef<Solid | null>(null);
  useEffect(() => {
    latest.current = new Latest<Wish, Solid>(
      fetchSolid,
      (next) => {
        setProblem(null);
        // Benchmarks read how long the way from hand to screen is.
        performance.mark("drelo-solid");
        standing.current = next;
        setSolid((before) => {
          before?.geometry.dispose();
          return next;
        });
      },
      (error, wish) => {
        // What never came stands for no revision.
        if (asked.current === wish) asked.current = null;
        const { piece, made } = useBench.getState();
        if (wish.draft && piece?.id === wish.piece && made?.edit === wish.draft) {
          latest.current?.ask({ piece: piece.id, revision: made.revision, waiting: [], draft: null });
          return;
        }
        // A draft that cannot be is told beside its control; the solid stays as it was.
        if (!wish.draft && error instanceof Error && !(error instanceof Refused && error.superseded))
          setProblem(error.message);
      },
    );
    return () => latest.current?.cancel();
  }, []);
  useEffect(() => {
    if (id === null || revision === null) {
      latest.current?.cancel();
      return;
    }
    const ask = () => {
      const { made, waiting } = useBench.getState();
      const before = asked.current;
      // The draft became this revision: its solid is here, or on its way.
      if (
        !draft &&
        before?.piece === id &&
        before.draft &&
        before.draft === made?.edit &&
        made.revision === revision
      )
        return;
      asked.current = { piece: id, revision, waiting: waiting.filter((edit) => edit !== draft), draft };
      latest.current?.ask(asked.current);
    };
    const wait =
      draft?.do === "set-trace"
        ? TRACE_REST_MS
        : standing.current && movesAlone(standing.current, draft)
          ? MOVED_REST_MS
          : 0;
    if (!wait) {
      ask();
      return;
    }
    const resting = setTimeout(ask, wait);
    return () => clearTimeout(resting);
  }, [id, revision, draft]);
  return id === null ? { solid: null, problem: null } : { solid, problem };
}
