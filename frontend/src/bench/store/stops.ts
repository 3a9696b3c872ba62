import type { Document, Piece } from "../../api/client";
import { hasBegun } from "../begun";
import { leftAt } from "../left";

export const STOPS = ["Gather", "Trace", "Shape", "Raise", "Prove"] as const;
export type Stop = (typeof STOPS)[number];

/** Where a piece opens: at the stop at which it was left in this browser, else at what there is to do next. */
export function openingStop(piece: Piece): Stop {
  return STOPS.find((stop) => stop === leftAt(piece.id).stop) ?? firstStop(piece.document);
}

function firstStop(document: Document): Stop {
  if (document.pictures.length) return "Trace";
  if (document.drawn.length) return "Shape";
  return hasBegun(document) ? "Raise" : "Gather";
}
