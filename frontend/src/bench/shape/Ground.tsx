import type { ComponentProps } from "react";

/** The whole flat view as a place for the pointer; the middle button is left for moving the sheet. */
export function Ground({ cursor, ...rest }: ComponentProps<"rect"> & { cursor: string }) {
  return <rect data-ground width="100%" height="100%" fill="transparent" className={cursor} {...rest} />;
}

let space = false;
if (typeof window !== "undefined") {
  window.addEventListener("keydown", (event) => (space = space || event.code === "Space"));
  window.addEventListener("keyup", (event) => (space = event.code === "Space" ? false : space));
}

/** Puts the drag on this element, unless it is for moving the sheet. */
export function takes(event: React.PointerEvent<SVGRectElement>): boolean {
  if (event.button !== 0 || space) return false;
  event.stopPropagation();
  event.currentTarget.setPointerCapture(event.pointerId);
  event.currentTarget.closest<HTMLElement>("[tabindex]")?.focus();
  return true;
}
