import { create } from "zustand";

import type { Schemas } from "../../api/client";

/** of: what it was made of, as `artOf` tells. */
export type Rehearsed = Schemas["RehearsalOut"] & { of: string };
export type Report = Rehearsed["report"];
export type Trouble = Report["troubles"][number];

type Prove = {
  /** The layer that is shown, from 0; null: the last one. */
  layer: number | null;
  playing: boolean;
  /** By what lines are coloured. */
  colours: "filament" | "kind";
  bed: number;
  /** The trouble that is looked at. */
  trouble: number | null;
  setLayer: (layer: number | null) => void;
  setPlaying: (playing: boolean) => void;
  setColours: (colours: Prove["colours"]) => void;
  setBed: (bed: number) => void;
  setTrouble: (trouble: number | null) => void;
};

/** What the hand does at Prove; none of it is part of the piece. */
export const useProve = create<Prove>((set) => ({
  layer: null,
  playing: false,
  colours: "filament",
  bed: 0,
  trouble: null,
  setLayer: (layer) => set({ layer }),
  setPlaying: (playing) => set({ playing }),
  setColours: (colours) => set({ colours }),
  setBed: (bed) => set({ bed }),
  setTrouble: (trouble) => set({ trouble }),
}));

/** The layer that is shown of so many, from 0. */
export function layerOf(layer: number | null, count: number): number {
  return Math.max(0, Math.min(layer ?? count - 1, count - 1));
}
