import type { Tools, Slice } from "./state";

/** What the hand was at is put down when one goes elsewhere. */
export const DOWN = { tool: null, area: null, measured: null } as const;

export const tools: Slice<Tools> = (set) => ({
  ...DOWN,
  picture: null,
  setTool: (tool) => set({ tool }),
  setPicture: (picture) => set({ picture, area: null }),
  setArea: (area) => set({ area }),
  setMeasured: (measured) => set({ measured }),
});
