/** What a pointer that is moved by keys holds: the element that it was pressed on. */
export type Held = { on: Element };

type Keys = { shiftKey: boolean; altKey: boolean };

/** The pointer that events are made for; browsers know no such one. */
const ID = 7001;

/**
 * Lets a pointer move, press or let go at a place of the window, as one of the hand would; gives what it holds then. What
 * it was pressed on gets all events until it lets go.
 */
export function pointerAt(
  { x, y }: { x: number; y: number },
  what: "move" | "down" | "up",
  keys: Keys,
  held: Held | null,
): Held | null {
  const on = held?.on ?? document.elementFromPoint(x, y);
  if (!on) return null;
  const shared = {
    bubbles: true,
    cancelable: true,
    clientX: x,
    clientY: y,
    screenX: x,
    screenY: y,
    // While it is held, Shift keeps to steps, as with the hand.
    shiftKey: keys.shiftKey && what !== "move" ? keys.shiftKey : Boolean(held) && keys.shiftKey,
    altKey: false,
    view: window,
  };
  const pointer = { ...shared, pointerId: ID, pointerType: "mouse", isPrimary: true };
  return withoutCapture(() => {
    if (what === "move") {
      if (!held) on.dispatchEvent(new PointerEvent("pointerover", { ...pointer, button: -1, buttons: 0 }));
      on.dispatchEvent(new PointerEvent("pointermove", { ...pointer, button: -1, buttons: held ? 1 : 0 }));
      return held;
    }
    if (what === "down") {
      on.dispatchEvent(new PointerEvent("pointerdown", { ...pointer, button: 0, buttons: 1 }));
      on.dispatchEvent(new MouseEvent("mousedown", { ...shared, button: 0, buttons: 1 }));
      return { on };
    }
    on.dispatchEvent(new PointerEvent("pointerup", { ...pointer, button: 0, buttons: 0 }));
    on.dispatchEvent(new MouseEvent("mouseup", { ...shared, button: 0, buttons: 0 }));
    const under = document.elementFromPoint(x, y);
    // A click is of what was pressed and let go on.
    if (under && (under === on || on.contains(under)))
      under.dispatchEvent(new MouseEvent("click", { ...shared, button: 0, detail: 1 }));
    return null;
  });
}

/** Capture is of pointers that the browser knows: this one's events go where they should without it. */
function withoutCapture<T>(run: () => T): T {
  const { setPointerCapture, hasPointerCapture, releasePointerCapture } = Element.prototype;
  Element.prototype.setPointerCapture = () => undefined;
  Element.prototype.releasePointerCapture = () => undefined;
  Element.prototype.hasPointerCapture = () => true;
  try {
    return run();
  } finally {
    Object.assign(Element.prototype, { setPointerCapture, hasPointerCapture, releasePointerCapture });
  }
}
