import { create } from "zustand";

import { recalled, remember } from "./remembered";
import { useBench, type Stop } from "./store";

/** Which view fills the middle; the other one is a live inset below the contents. */
export type Arrangement = "flat" | "solid" | "both";

/** The view that each stop is about. */
const USUAL: Record<Stop, Arrangement> = {
  Gather: "flat",
  Trace: "flat",
  Shape: "flat",
  Raise: "both",
  Prove: "both",
};
/** From this width (px) of the window on, both views are large enough side by side. */
const ROOM_FOR_BOTH = 1900;
/** The flat view's share side by side, in percent. */
const SHARES: Record<Stop, number> = { Gather: 60, Trace: 60, Shape: 60, Raise: 56, Prove: 60 };

type ByStop<T> = Partial<Record<Stop, T>>;
type Arrangements = { chosen: ByStop<Arrangement>; arrange: (stop: Stop, how: Arrangement) => void };

const useArrangements = create<Arrangements>((set, get) => ({
  chosen: recalled<ByStop<Arrangement>>("arrangements", {}),
  arrange: (stop, how) => {
    const chosen = { ...get().chosen, [stop]: how };
    set({ chosen });
    remember("arrangements", chosen);
  },
}));

const arranged = (stop: Stop, chosen: ByStop<Arrangement>): Arrangement =>
  chosen[stop] ?? (window.innerWidth >= ROOM_FOR_BOTH ? "both" : USUAL[stop]);

/** How the views of the stop one is at stand: as the maker chose, else as suits the stop. */
export function useArrangement(): Arrangement {
  const stop = useBench((s) => s.stop);
  return useArrangements((s) => arranged(stop, s.chosen));
}

export function arrange(how: Arrangement): void {
  useArrangements.getState().arrange(useBench.getState().stop, how);
}

/** The view in the inset takes the middle; of two side by side the flat one does. */
export function swapViews(): void {
  const now = arranged(useBench.getState().stop, useArrangements.getState().chosen);
  arrange(now === "flat" ? "solid" : "flat");
}

/** Both views side by side, or the one that the stop is about alone. */
export function bothViews(): void {
  const { stop } = useBench.getState();
  const now = arranged(stop, useArrangements.getState().chosen);
  arrange(now !== "both" ? "both" : "flat");
}

/** The flat view's share side by side, in percent, as the maker left it. */
export function shareOf(stop: Stop): number {
  return recalled<ByStop<number>>("shares", {})[stop] ?? SHARES[stop];
}

export function keepShare(stop: Stop, share: number): void {
  remember("shares", { ...recalled<ByStop<number>>("shares", {}), [stop]: share });
}
