import { useLayoutEffect, useRef, useState, type PointerEvent } from "react";

import { useGestures } from "../../ui/useGestures";
import { fitted, zoomed, type Rect, type Viewport } from "./viewport";

/** A sheet that is only looked at: fitted into its frame, moved by dragging, enlarged by wheel, fingers and buttons. */
export function useStill(whole: Rect) {
  const frame = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [moved, setMoved] = useState<Viewport | null>(null);
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
  const view = moved ?? fitted(whole, size.width, size.height, 0, 60);
  const zoom = (factor: number, x = size.width / 2, y = size.height / 2) =>
    setMoved((before) => zoomed(before ?? view, factor, x, y));
  const pan = (dx: number, dy: number) =>
    setMoved((before) => {
      const { scale, x, y } = before ?? view;
      return { scale, x: x + dx, y: y + dy };
    });
  useGestures(frame, { zoom, pan });
  const up = () => (press.current = null);
  const handlers = {
    onPointerDown: (event: PointerEvent) => {
      if (event.button > 1) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      press.current = { x: event.clientX, y: event.clientY, view };
    },
    onPointerMove: (event: PointerEvent) => {
      const from = press.current;
      if (!from) return;
      const { scale, x, y } = from.view;
      setMoved({ scale, x: x + event.clientX - from.x, y: y + event.clientY - from.y });
    },
    onPointerUp: up,
    onPointerCancel: up,
  };
  const transform = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return { frame, size, transform, zoom, fit: () => setMoved(null), handlers };
}
