type Pressed = Pick<KeyboardEvent, "key" | "code" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey">;

/** Whether an event is the chord: "Mod+Shift+z", "Alt+1", "Shift?+ArrowUp", "?". */
export function matches(event: Pressed, chord: string): boolean {
  const parts = chord === "+" ? ["+"] : chord.split("+");
  const key = parts.at(-1) ?? "";
  const has = (name: string) => parts.includes(name);
  if ((event.ctrlKey || event.metaKey) !== has("Mod")) return false;
  // With Alt a digit may be another sign: the place on the keyboard counts.
  const digit = has("Alt") && /^\d$/.test(key);
  if (digit ? event.code !== `Digit${key}` : event.key.toLowerCase() !== key.toLowerCase()) return false;
  // Where a sign lies, and what it takes to type it, differs from keyboard to keyboard.
  if (key.length === 1 && !/[a-z ]/i.test(key) && !digit) return true;
  return event.altKey === has("Alt") && (has("Shift?") || event.shiftKey === has("Shift"));
}
