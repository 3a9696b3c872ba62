import { create } from "zustand";

import type { Picture } from "../api/client";
import { recalled, remember } from "./remembered";
import { pictureOf } from "./select";
import { useBench } from "./store";

export type PenKind = "edge" | "straight" | "through";
export type Line = Picture["pen"][number];
type Point = readonly [number, number];

type PenState = {
  /** How the next stretch runs. */
  kind: PenKind;
  /** The open line that is gone on with. */
  line: string | null;
  /** Where a line was begun that has no stretch yet. */
  start: Point | null;
  /** The line as the last click left it, until the server has it too. */
  pending: Line | null;
  setKind: (kind: PenKind) => void;
  setLine: (line: string | null) => void;
  setStart: (start: Point | null) => void;
  setPending: (pending: Line | null) => void;
};

export const usePenState = create<PenState>((set) => ({
  kind: recalled<PenKind>("pen", "edge"),
  line: null,
  start: null,
  pending: null,
  setKind: (kind) => {
    set({ kind });
    remember("pen", kind);
  },
  setLine: (line) => set({ line, start: null, pending: null }),
  setStart: (start) => set({ start }),
  setPending: (pending) =>
    set({ pending, line: pending && !pending.closed ? pending.id : null, start: null }),
}));

/** The line that the pen is at, as the hand last left it. */
export function openLine(drawn: readonly Line[] | undefined, pen: PenState): Line | null {
  if (pen.pending && pen.pending.id === pen.line) return pen.pending;
  return drawn?.find((l) => l.id === pen.line && !l.closed) ?? null;
}

// What was drawn is taken from the document again as soon as nothing waits to be sent, undone steps included.
useBench.subscribe((now, before) => {
  const drawn = pictureOf(now.piece?.document, now.picture)?.pen;
  if (now.piece !== before.piece && drawn !== pictureOf(before.piece?.document, before.picture)?.pen) {
    const { pending } = usePenState.getState();
    const there = drawn?.find((l) => l.id === pending?.id);
    if (pending && (!there || there.stretches.length >= pending.stretches.length))
      usePenState.setState({ pending: null });
  }
});
