import type { Document } from "../api/client";

export function hasBegun(document: Document | null | undefined): boolean {
  if (!document) return false;
  return Boolean(document.pictures.length || document.drawn.length || standsAlone(document));
}

/** Whether the base has a size of its own, so that it is there without any art. */
export function standsAlone({ base }: Document): boolean {
  return (
    base.shape === "block" ||
    (base.shape === "circle" && base.diameter !== null) ||
    (base.shape === "rectangle" && base.sides !== null)
  );
}
