import { useEffect, useRef, type RefObject } from "react";

export type Moves = {
  /** Makes what is seen larger about a place of the frame, px. */
  zoom: (factor: number, x: number, y: number) => void;
  /** Moves what is seen, px. */
  pan: (dx: number, dy: number) => void;
};

/** What a step of the wheel (a px of it, a line, a pinch's px) enlarges by, as an exponent. */
const BY_PX = 0.0016;
const BY_LINE = 0.05;
const BY_PINCH = 0.01;
/** A mouse's wheel moves at least this much (px) at a time, and never sideways; what moves less is a pad under fingers. */
const NOTCH = 40;
/** Scrolling (ms) that goes on is of the same device. */
const SAME_MS = 250;

/** A wheel enlarges, two fingers on a pad move, and a pinch, on a pad or a screen, enlarges what lies under it. */
export function useGestures(frame: RefObject<HTMLElement | null>, moves: Moves, on = true): void {
  const latest = useRef(moves);
  useEffect(() => {
    latest.current = moves;
  });
  useEffect(() => {
    const element = frame.current;
    if (!element || !on) return;
    const wheel = wheeled(element, latest);
    const touch = touched(element, latest);
    element.addEventListener("wheel", wheel, { passive: false });
    for (const kind of TOUCHES) element.addEventListener(kind, touch, true);
    return () => {
      element.removeEventListener("wheel", wheel);
      for (const kind of TOUCHES) element.removeEventListener(kind, touch, true);
    };
  }, [frame, on]);
}

type Latest = RefObject<Moves>;

function wheeled(element: HTMLElement, moves: Latest) {
  let last = -Infinity;
  let onPad = false;
  return (event: WheelEvent) => {
    event.preventDefault();
    const { left, top } = element.getBoundingClientRect();
    const at = [event.clientX - left, event.clientY - top] as const;
    if (event.timeStamp - last > SAME_MS)
      onPad = event.deltaMode === 0 && (event.deltaX !== 0 || Math.abs(event.deltaY) < NOTCH);
    last = event.timeStamp;
    // Browsers tell a pinch on a pad as a wheel with Ctrl.
    if (event.ctrlKey) moves.current.zoom(Math.exp(-event.deltaY * BY_PINCH), ...at);
    else if (event.shiftKey) moves.current.pan(-event.deltaX - event.deltaY, 0);
    else if (onPad) moves.current.pan(-event.deltaX, -event.deltaY);
    else moves.current.zoom(Math.exp(-event.deltaY * (event.deltaMode === 1 ? BY_LINE : BY_PX)), ...at);
  };
}

const TOUCHES = ["pointerdown", "pointermove", "pointerup", "pointercancel"] as const;

/** Two fingers move and enlarge; what the first had begun is given up, and neither does anything else until both are off. */
function touched(element: HTMLElement, moves: Latest) {
  const fingers = new Map<number, { x: number; y: number; on: EventTarget | null }>();
  let pinching = false;
  return (event: PointerEvent) => {
    if (event.pointerType !== "touch" || !event.isTrusted) return;
    const before = [...fingers.values()];
    const here = { x: event.clientX, y: event.clientY, on: fingers.get(event.pointerId)?.on ?? event.target };
    if (event.type === "pointerdown") {
      fingers.set(event.pointerId, here);
      if (fingers.size === 2) {
        pinching = true;
        giveUp(before[0]?.on ?? null, event);
      }
    } else if (event.type === "pointermove") {
      if (!fingers.has(event.pointerId)) return;
      fingers.set(event.pointerId, here);
      if (pinching && fingers.size === 2) follow(before, [...fingers.values()], element, moves.current);
    } else fingers.delete(event.pointerId);
    if (pinching) event.stopPropagation();
    if (!fingers.size) pinching = false;
  };
}

type Place = { x: number; y: number };

function follow(before: readonly Place[], now: readonly Place[], element: HTMLElement, moves: Moves): void {
  const [a, b] = before;
  const [c, d] = now;
  if (!a || !b || !c || !d) return;
  const { left, top } = element.getBoundingClientRect();
  const [from, to] = [middle(a, b), middle(c, d)];
  moves.pan(to.x - from.x, to.y - from.y);
  const apart = Math.hypot(a.x - b.x, a.y - b.y);
  if (apart > 0) moves.zoom(Math.hypot(c.x - d.x, c.y - d.y) / apart, to.x - left, to.y - top);
}

const middle = (a: Place, b: Place): Place => ({ x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 });

/** Tells what a finger had been put on that nothing comes of it. */
function giveUp(on: EventTarget | null, { pointerId }: PointerEvent): void {
  on?.dispatchEvent(
    new PointerEvent("pointercancel", { pointerId, pointerType: "touch", bubbles: true, cancelable: false }),
  );
}
