import { useLayoutEffect, useRef } from "react";

import type { Document, Flat } from "../../api/client";
import { useBench } from "../store";
import { pathOf } from "./hits";
import { fillOf, named, type Fill } from "./Regions";
import type { Viewport } from "./viewport";

type Place = { view: Viewport; width: number; height: number; beyondX: number; beyondY: number };

/** The regions of a heavy sheet, drawn into one picture; the soft bands of what is picked lie beneath in another. */
export function SheetCanvas({
  flat,
  document,
  faint,
  place,
}: {
  flat: Flat;
  document: Document;
  faint: boolean;
  place: Place;
}) {
  const picked = useBench((s) => s.picked);
  const hover = useBench((s) => s.hover);
  const quiet = useBench((s) => s.tool === "nodes");
  const regions = useRef<HTMLCanvasElement>(null);
  const bands = useRef<HTMLCanvasElement>(null);
  useLayoutEffect(() => {
    const canvas = regions.current && begun(regions.current, place);
    if (canvas) drawRegions(canvas, flat, document, faint, place.view.scale);
  }, [flat, document, faint, place]);
  const lit = !quiet && (picked.length > 0 || hover !== null);
  useLayoutEffect(() => {
    const canvas = bands.current && begun(bands.current, place);
    if (!canvas) return;
    const chosen = new Set(picked);
    const names = hover ? new Set([...picked, hover]) : chosen;
    canvas.strokeStyle = colour("--act");
    canvas.lineJoin = "round";
    for (const region of flat.regions) {
      if (!named(names, region)) continue;
      const strong = named(chosen, region);
      canvas.lineWidth = (strong ? 11 : 7) / place.view.scale;
      canvas.globalAlpha = strong ? 0.45 : 0.25;
      canvas.stroke(pathOf(region));
    }
  }, [flat, picked, hover, lit, place]);
  const style = {
    left: -place.beyondX,
    top: -place.beyondY,
    width: place.width + 2 * place.beyondX,
    height: place.height + 2 * place.beyondY,
  };
  return (
    <>
      {lit && <canvas ref={bands} aria-hidden className="absolute block" style={style} />}
      <canvas ref={regions} aria-hidden data-heavy className="absolute block" style={style} />
    </>
  );
}

/** A cleared context whose units are mm on the sheet. */
function begun(
  canvas: HTMLCanvasElement,
  { view, width, height, beyondX, beyondY }: Place,
): CanvasRenderingContext2D | null {
  const dense = window.devicePixelRatio || 1;
  canvas.width = Math.round((width + 2 * beyondX) * dense);
  canvas.height = Math.round((height + 2 * beyondY) * dense);
  // Kept in memory that the processor draws: thousands of curves are slow where a graphics processor is only simulated.
  const context = canvas.getContext("2d", { willReadFrequently: true });
  context?.setTransform(
    dense * view.scale,
    0,
    0,
    dense * view.scale,
    dense * (view.x + beyondX),
    dense * (view.y + beyondY),
  );
  return context;
}

function drawRegions(
  canvas: CanvasRenderingContext2D,
  flat: Flat,
  document: Document,
  faint: boolean,
  scale: number,
): void {
  const [ink, error] = [colour("--ink"), colour("--error")];
  const patterns = new Map<Fill["pattern"], CanvasPattern | null>();
  canvas.lineJoin = "round";
  // A line of one px is much quicker than a wider one.
  canvas.lineWidth = 1 / scale;
  for (const region of flat.regions) {
    const path = pathOf(region);
    const { pattern, fill, opacity } = fillOf(region, document, faint);
    if (opacity) {
      if (pattern && !patterns.has(pattern)) patterns.set(pattern, hatching(canvas, pattern, ink, scale));
      canvas.globalAlpha = opacity;
      canvas.fillStyle = (pattern && patterns.get(pattern)) || fill;
      canvas.fill(path, "evenodd");
    }
    canvas.globalAlpha = 1;
    canvas.strokeStyle = region.left_out ? error : ink;
    canvas.setLineDash(region.left_out ? [2 / scale, 4 / scale] : []);
    canvas.stroke(path);
  }
}

/** The hatching of what is sunk and the dots of what is cut through, the same size on the screen at every zoom. */
function hatching(
  canvas: CanvasRenderingContext2D,
  pattern: Fill["pattern"],
  ink: string,
  scale: number,
): CanvasPattern | null {
  const tile = window.document.createElement("canvas");
  tile.width = tile.height = 8;
  const draw = tile.getContext("2d");
  if (!draw) return null;
  draw.fillStyle = draw.strokeStyle = ink;
  draw.globalAlpha = 0.6;
  draw.lineWidth = 1.2;
  if (pattern === "dotted") draw.arc(4, 4, 1.3, 0, 2 * Math.PI);
  else [-8, 0, 8].forEach((x) => (draw.moveTo(x, 8), draw.lineTo(x + 8, 0)));
  if (pattern === "dotted") draw.fill();
  else draw.stroke();
  const made = canvas.createPattern(tile, "repeat");
  made?.setTransform(new DOMMatrix([1 / scale, 0, 0, 1 / scale, 0, 0]));
  return made;
}

function colour(name: string): string {
  return getComputedStyle(window.document.documentElement).getPropertyValue(name).trim();
}
