import type { Document } from "../api/client";

/** What the page needs to know of the four forms; the core works them out. */

type Form = Document["form"];

/** The backing of a nameplate that was not told one, mm. */
const BACKING = 2.4;

/** Whether each region has a height of its own. */
export function hasHeights(form: Form): boolean {
  return form === "relief" || form === "nameplate";
}

/** Whether the edges of regions can be rounded and sloped. */
export function hasEdges(form: Form): boolean {
  return form !== "nameplate";
}

/** What regions stand on is called this; a cutter stands on nothing. */
export function supportName(form: Form): "Base" | "Plate" | null {
  if (form === "cutter") return null;
  return form === "relief" ? "Base" : "Plate";
}

/** Whether the thickness of what regions stand on is the base's; other forms have one of their own. */
export function hasBaseThickness(form: Form): boolean {
  return form === "relief";
}

/** How thick that is, mm; 0 where there is nothing. */
export function supportThickness(document: Document): number {
  switch (document.form) {
    case "stamp":
      return document.stamp.thickness;
    case "nameplate":
      return backingOf(document.nameplate);
    case "cutter":
      return 0;
    case "relief":
      return document.base.shape === "none" ? 0 : document.base.thickness;
  }
}

/** The backing as it stands, mm. */
export function backingOf(nameplate: Document["nameplate"]): number {
  return nameplate.thickness ?? BACKING;
}
