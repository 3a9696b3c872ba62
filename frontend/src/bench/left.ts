import { recalled, remember } from "./remembered";

/** How a maker left a piece; it opens so again in the same browser. */
export type Left = {
  stop?: string;
  /** The part of the sheet that was looked at: mm of it in the middle of the view. own: the maker had moved it there. */
  view?: { scale: number; middle: readonly [number, number]; own: boolean };
};

const keyOf = (piece: string) => `left.${piece}`;

export const leftAt = (piece: string): Left => recalled<Left>(keyOf(piece), {});

export function leave(piece: string, change: Left): void {
  if (piece) remember(keyOf(piece), { ...leftAt(piece), ...change });
}
