import { useCallback, useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";

import { useGestures } from "../../ui/useGestures";
import { zoomed, type Viewport } from "./viewport";

type Size = { width: number; height: number };

/**
 * What is only looked at in a frame: as it fits until it is moved by dragging, or enlarged by wheel, fingers and buttons.
 * fits: the view that shows all of it in a frame of a size, px. still: it cannot be moved, and always fits.
 */
export function useMovable(fits: (size: Size) => Viewport, still = false) {
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  const [moved, put] = useState<Viewport | null>(null);
  const press = useRef<{ x: number; y: number; view: Viewport } | null>(null);
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const view = (!still && moved) || fits(size);
  const latest = useRef(view);
  useEffect(() => {
    latest.current = view;
  });
  const zoom = useCallback((factor: number, x?: number, y?: number) => {
    const { clientWidth = 0, clientHeight = 0 } = frame.current ?? {};
    put((before) => zoomed(before ?? latest.current, factor, x ?? clientWidth / 2, y ?? clientHeight / 2));
  }, []);
  const pan = useCallback((dx: number, dy: number) => {
    put((before) => {
      const { scale, x, y } = before ?? latest.current;
      return { scale, x: x + dx, y: y + dy };
    });
  }, []);
  const fit = useCallback(() => put(null), []);
  useGestures(frame, { zoom, pan }, !still);
  const up = () => (press.current = null);
  const handlers = {
    onPointerDown: (event: PointerEvent) => {
      if (still || event.button > 1) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      press.current = { x: event.clientX, y: event.clientY, view: latest.current };
    },
    onPointerMove: (event: PointerEvent) => {
      const from = press.current;
      if (!from) return;
      const { scale, x, y } = from.view;
      put({ scale, x: x + event.clientX - from.x, y: y + event.clientY - from.y });
    },
    onPointerUp: up,
    onPointerCancel: up,
  };
  return { frame, size, view, latest, zoom, fit, put, handlers };
}
