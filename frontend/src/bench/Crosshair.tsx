import { useEffect, useRef, useState } from "react";

import { formatLength, unitName } from "../ui/length";
import { useKeys } from "./keys/useKeys";
import { pointerAt, type Held } from "./pointer";
import { useShown, useUnits } from "./select";
import { useBench } from "./store";

/** Steps of the arrow keys, px: usual, with Shift, with Alt. */
const STEP = 12;
const FAR = 60;
const NEAR = 1;
/** How long a click takes, ms. */
const CLICK_MS = 30;
/** What lies under the crosshair is told when it rests so long, ms. */
const REST_MS = 500;
const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

type At = { x: number; y: number };

/**
 * A pointer that is moved by keys: X takes it up and puts it away, arrows move it, Enter clicks, Space holds and lets go,
 * N goes to the next node. Whatever a pointer does in the views is done with it.
 */
export function Crosshair() {
  const [at, setAt] = useState<At | null>(null);
  const [isHeld, setIsHeld] = useState(false);
  const held = useRef<Held | null>(null);
  const now = useRef(at);
  useEffect(() => {
    now.current = at;
  });
  const move = (to: At, event: KeyboardEvent) => {
    const kept = { x: clamp(to.x, innerWidth), y: clamp(to.y, innerHeight) };
    setAt(kept);
    now.current = kept;
    pointerAt(kept, "move", event, held.current);
  };
  useKeys("crosshair", {
    crosshair: (event) => {
      const here = now.current;
      if (here && held.current) held.current = pointerAt(here, "up", event, held.current);
      setIsHeld(false);
      if (here) setAt(null);
      else move(middleOfView(), event);
    },
  });
  useKeys(
    "crosshair",
    {
      "crosshair-move": (event) => {
        const here = now.current;
        if (!here) return false;
        const [x, y] = ARROWS[event.key] ?? [0, 0];
        const by = event.altKey ? NEAR : event.shiftKey && !held.current ? FAR : STEP;
        move({ x: here.x + x * by, y: here.y + y * by }, event);
      },
      "crosshair-click": (event) => {
        const here = now.current;
        if (!here || held.current) return false;
        const pressed = pointerAt(here, "down", event, null);
        // What the press changed is drawn before it is let go, as with a hand.
        setTimeout(() => pointerAt(here, "up", event, pressed), CLICK_MS);
      },
      "crosshair-hold": (event) => {
        const here = now.current;
        if (!here) return false;
        held.current = pointerAt(here, held.current ? "up" : "down", event, held.current);
        setIsHeld(held.current !== null);
      },
      "crosshair-node": (event) => {
        const next = now.current && nextNode(now.current, event.shiftKey);
        if (next) move(next, event);
      },
    },
    at !== null,
  );
  if (!at) return null;
  return (
    <>
      <svg
        aria-hidden
        className="pointer-events-none fixed inset-0 z-30 size-full"
        data-crosshair={`${at.x} ${at.y}`}
      >
        <path d={`M${at.x - 16} ${at.y}h32M${at.x} ${at.y - 16}v32`} stroke="var(--paper)" strokeWidth={4} />
        <path d={`M${at.x - 16} ${at.y}h32M${at.x} ${at.y - 16}v32`} stroke="var(--act)" strokeWidth={1.6} />
        {isHeld && <circle cx={at.x} cy={at.y} r={7} fill="none" stroke="var(--act)" strokeWidth={2} />}
      </svg>
      <Told at={at} isHeld={isHeld} />
    </>
  );
}

/** Says where the crosshair is and what lies under it, when it rests. */
function Told({ at, isHeld }: { at: At; isHeld: boolean }) {
  const pointer = useBench((s) => s.pointer);
  const hover = useBench((s) => s.hover);
  const flat = useShown();
  const units = useUnits();
  const [said, setSaid] = useState("");
  const name = flat?.regions.find((region) => region.id === hover)?.name;
  const place = pointer
    ? `${formatLength(pointer.x, units)}, ${formatLength(pointer.y, units)} ${unitName(units)}`
    : "off the sheet";
  const words = `Crosshair ${isHeld ? "holding, " : ""}${place}${name ? `, over ${name}` : ""}`;
  useEffect(() => {
    const resting = setTimeout(() => setSaid(words), REST_MS);
    return () => clearTimeout(resting);
  }, [words, at]);
  return (
    <p role="status" className="sr-only">
      {said}
    </p>
  );
}

const clamp = (value: number, most: number) => Math.min(Math.max(value, 2), most - 2);

/** The middle of the view that fills the most room. */
function middleOfView(): At {
  const views = [
    ...document.querySelectorAll(
      '[aria-label="Flat view"], [aria-label="Solid view"], [aria-label="Layer view"]',
    ),
  ];
  const boxes = views.map((view) => view.getBoundingClientRect());
  const box = boxes.sort((a, b) => b.width * b.height - a.width * a.height)[0];
  return box
    ? { x: Math.round(box.left + box.width / 2), y: Math.round(box.top + box.height / 2) }
    : { x: innerWidth / 2, y: innerHeight / 2 };
}

/** The node after the one that is nearest, or before it. */
function nextNode(from: At, back: boolean): At | null {
  const marks = [...document.querySelectorAll("[data-node]")].map((mark) => {
    const box = mark.getBoundingClientRect();
    return { x: box.left + box.width / 2, y: box.top + box.height / 2 };
  });
  if (!marks.length) return null;
  const away = marks.map((mark) => Math.hypot(mark.x - from.x, mark.y - from.y));
  const nearest = away.indexOf(Math.min(...away));
  const isThere = (away[nearest] ?? 0) < 1;
  const step = isThere ? (back ? -1 : 1) : 0;
  return marks[(nearest + step + marks.length) % marks.length] ?? null;
}
