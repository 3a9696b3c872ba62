import type { Schemas } from "../api/client";
import { formatLength, trimmed, unitName, type Units } from "../ui/length";

export type Told = Schemas["Told"];
type Value = Told["before"] | undefined;

/** What is told by itself where it is so, and how it is told when it is so no more. */
const BACK: Record<string, readonly [string, string]> = {
  left_out: ["left out", "brought back"],
  hidden: ["hidden", "shown"],
  locked: ["locked", "unlocked"],
};

/** What changed, as a line to read. */
export function inWords(told: Told, units: Units): string {
  const { what, how } = told;
  if (how === "done") return what;
  if (how !== "set") return `${what} ${how}`;
  const [before, after] = [told.before, told.after].map((value) => valueInWords(value, told.unit, units));
  if (typeof told.after === "boolean") {
    const field = told.path.split(".").at(-1) ?? "";
    const back = BACK[field];
    if (back) return told.after ? what : what.replace(new RegExp(`${back[0]}$`), back[1]);
    return `${what}: ${after}`;
  }
  if (told.path === "back") return `${what} ${after}`;
  // The unit is said once.
  const unit = told.unit === "mm" && typeof told.before === "number" ? ` ${unitName(units)}` : "";
  const from = unit && before?.endsWith(unit) ? before.slice(0, -unit.length) : before;
  return `${what} ${from} → ${after}`;
}

/** A value with its unit. */
export function valueInWords(value: Value, unit: Told["unit"] | undefined, units: Units): string {
  if (value === null || value === undefined) return "auto";
  if (typeof value === "boolean") return value ? "on" : "off";
  if (typeof value === "string") return value === "" ? "nothing" : value;
  if (unit === "mm") return `${formatLength(value, units)} ${unitName(units)}`;
  if (unit === "°") return `${trimmed(value, 1)}°`;
  if (unit === "share") return `${trimmed(100 * value, 0)} %`;
  return unit ? `${trimmed(value, 3)} ${unit}` : trimmed(value, 3);
}

/** What a line of the past says: the first of what changed, and how much else. */
export function lineInWords(told: readonly Told[], more: number, units: Units): string {
  const [first, ...rest] = told;
  if (!first) return "Nothing changed";
  const others = rest.length + more;
  // What was done says all; what it brought and took is in the list.
  if (!others || first.how === "done") return inWords(first, units);
  return `${inWords(first, units)}, and ${others} more`;
}

const DAY = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long" });
const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** The day of a moment as one says it. */
export function dayOf(made: string, now = new Date()): string {
  const day = new Date(made);
  const midnight = (at: Date) => new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime();
  const ago = Math.round((midnight(now) - midnight(day)) / 86_400_000);
  if (ago === 0) return "Today";
  if (ago === 1) return "Yesterday";
  const year = day.getFullYear() === now.getFullYear() ? "" : ` ${day.getFullYear()}`;
  return DAY.format(day) + year;
}

export const timeOf = (made: string): string => TIME.format(new Date(made));
