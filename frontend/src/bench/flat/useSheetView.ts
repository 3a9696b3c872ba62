import { useCallback, useEffect, useLayoutEffect, useRef, useState, type RefObject } from "react";

import type { Flat } from "../../api/client";
import { useGestures } from "../../ui/useGestures";
import { leave, leftAt } from "../left";
import { useUnderlay } from "../select";
import { fitNext, focusOn } from "../signals";
import { useBench } from "../store";
import { nodesOf } from "./nodes";
import { RULER } from "./Rulers";
import { GRID_FROM } from "./Sheet";
import { fitted, zoomed, type Rect, type Viewport } from "./viewport";

/** So long (ms) after the sheet was moved its place is remembered. */
const LEAVE_MS = 400;
/** px left free round the art in an inset. */
const INSET_MARGIN = 14;
/** px of the screen that a pixel of the picture gets when pixels are looked at; from here on their grid is drawn. */
const PIXEL_ZOOM = 12;

export type SheetView = {
  frame: RefObject<HTMLDivElement | null>;
  size: { width: number; height: number };
  view: Viewport;
  /** Where the pointer is now, mm on the sheet. */
  point: (at: [number, number]) => void;
  /** Enlarges about a place of the frame, px, else about its middle. */
  zoom: (factor: number, x?: number, y?: number) => void;
  fit: () => void;
  /** Moved by hand: from now on it stays where it is put. */
  put: (view: Viewport) => void;
  /** Zooms in until single pixels of the picture can be told, where the pointer was last; and back. */
  pixels: (flat: Flat) => void;
};

/**
 * The part of the sheet that is seen: fitted to what lies on it until the maker moves it, and then where they left it,
 * also when the piece is opened again. box: what a fitted sheet shows, mm. inset: the view is small and shows the whole.
 */
export function useSheetView(box: Rect | null, inset: boolean): SheetView {
  const underlay = useUnderlay();
  const stop = useBench((s) => s.stop);
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [moved, setView] = useState<Viewport>({ scale: 4, x: 60, y: 60 });
  const own = useRef(false);
  const piece = useBench((s) => s.piece?.id ?? "");
  const opened = useRef("");
  const restored = useRef(false);
  /** Where the pointer was last, mm on the sheet. */
  const pointed = useRef<[number, number] | null>(null);
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width, height } = entry.contentRect;
      setSize({ width, height });
      if (!width || inset || opened.current === piece) return;
      opened.current = piece;
      // A piece that was left at some place of the sheet opens there.
      const left = leftAt(piece).view;
      if (!left) return;
      own.current = left.own;
      restored.current = true;
      const { scale, middle } = left;
      setView({ scale, x: width / 2 - middle[0] * scale, y: height / 2 - middle[1] * scale });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [piece, inset]);

  // An inset shows the whole; where the maker moved the sheet is kept for when it is large again.
  const view = inset && box ? fitted(box, size.width, size.height, 0, INSET_MARGIN) : moved;
  const key =
    box && `${box.x.toFixed(2)} ${box.y.toFixed(2)} ${box.width.toFixed(2)} ${box.height.toFixed(2)}`;
  const fit = useCallback(() => {
    if (box && size.width) setView(fitted(box, size.width, size.height, RULER));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, size.width, size.height]);
  const latest = useRef(fit);
  const awaited = useRef(false);
  useLayoutEffect(() => {
    latest.current = fit;
    // Until the maker moves the sheet, it stays fitted; but never while a hand draws on it.
    if (awaited.current || (!own.current && stop !== "Shape")) fit();
    awaited.current = false;
  }, [fit, stop]);
  const somewhere = box !== null;
  useEffect(() => {
    if (!size.width || inset || opened.current !== piece) return;
    const { scale, x, y } = moved;
    const middle = [(size.width / 2 - x) / scale, (size.height / 2 - y) / scale] as const;
    const resting = setTimeout(() => leave(piece, { view: { scale, middle, own: own.current } }), LEAVE_MS);
    return () => clearTimeout(resting);
  }, [piece, moved, size.width, size.height, inset]);
  useLayoutEffect(() => {
    // A drawing that was left stands as it stood.
    if (stop === "Shape" && !own.current && !restored.current) latest.current();
    restored.current = false;
  }, [stop, size.width, size.height, somewhere]);

  const zoom = useCallback((factor: number, x?: number, y?: number) => {
    own.current = true;
    setView((v) =>
      zoomed(
        v,
        factor,
        x ?? (frame.current?.clientWidth ?? 0) / 2,
        y ?? (frame.current?.clientHeight ?? 0) / 2,
      ),
    );
  }, []);
  const fitAgain = useCallback(() => {
    own.current = false;
    fit();
  }, [fit]);

  useEffect(() => fitNext.on(() => (awaited.current = true)), []);
  useEffect(() => {
    return focusOn.on(({ x, y, radius }) => {
      const across = Math.min(size.width, size.height);
      const scale = Math.min(400, across / Math.max(8 * radius, 0.4));
      own.current = true;
      setView({ scale, x: size.width / 2 - x * scale, y: size.height / 2 - y * scale });
    });
  }, [size.width, size.height]);

  const pan = (dx: number, dy: number) => {
    own.current = true;
    setView((v) => ({ ...v, x: v.x + dx, y: v.y + dy }));
  };
  useGestures(frame, { zoom, pan }, !inset);
  const put = (to: Viewport) => {
    own.current = true;
    setView(to);
  };
  const pixels = (flat: Flat) => {
    if (!underlay) return;
    if (view.scale * underlay.mm_per_px >= GRID_FROM) return fitAgain();
    const node = flat.regions[0] && nodesOf(flat.regions[0].path)[0];
    const [x, y] = pointed.current ?? [node?.x ?? 0, node?.y ?? 0];
    const scale = PIXEL_ZOOM / underlay.mm_per_px;
    own.current = true;
    setView({ scale, x: size.width / 2 - x * scale, y: size.height / 2 - y * scale });
  };
  const point = (at: [number, number]) => {
    pointed.current = at;
  };
  return { frame, size, view, point, zoom, fit: fitAgain, put, pixels };
}
