import { create } from "zustand";

export type PenKind = "edge" | "straight" | "through";

type PenState = {
  /** How the next stretch runs. */
  kind: PenKind;
  /** The open line that is gone on with. */
  line: string | null;
  setKind: (kind: PenKind) => void;
  setLine: (line: string | null) => void;
};

export const usePenKind = create<PenState>((set) => ({
  kind: "edge",
  line: null,
  setKind: (kind) => set({ kind }),
  setLine: (line) => set({ line }),
}));
