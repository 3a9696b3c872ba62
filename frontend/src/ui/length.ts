export type Units = "mm" | "inch";
export const MM_PER_INCH = 25.4;

const NUMBER = /^([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))(?:\s*\/\s*(\d+(?:[.,]\d*)?))?$/;

/** A typed number such as `12`, `1/4` or `80/3`; null when it is none. */
export function parseNumber(text: string): number | null {
  const match = NUMBER.exec(text.trim());
  if (!match?.[1]) return null;
  const value = Number(match[1].replace(",", "."));
  const under = match[2] === undefined ? 1 : Number(match[2].replace(",", "."));
  const result = value / under;
  return Number.isFinite(result) ? result : null;
}

/** A typed length in mm, or a sum of such: numbers with or without `mm`, `cm`, `in` or `"`; else they are in `units`. */
export function parseLength(text: string, units: Units): number | null {
  const terms = text.trim().match(/[+-]?[^+-]+/g) ?? [];
  if (!terms.length || terms.join("") !== text.trim()) return null;
  let sum = 0;
  for (const term of terms) {
    const sign = term.startsWith("-") ? -1 : 1;
    const value = oneLength(term.replace(/^[+-]/, ""), units);
    if (value === null) return null;
    sum += sign * value;
  }
  return sum;
}

/** A typed point, `12, 30` or `12 30`, in mm; null when it is none. */
export function parsePoint(text: string, units: Units): [number, number] | null {
  const [x, y, ...more] = text
    .trim()
    .split(/\s*[,;]\s+|\s*;\s*|\s+(?=[-+.\d])|(?<=\d),(?=\s*[-+.\d])/)
    .map((part) => parseLength(part, units));
  return x == null || y == null || more.length ? null : [x, y];
}

function oneLength(text: string, units: Units): number | null {
  const match = /^(.*?)\s*(mm|cm|in|inch|")?$/i.exec(text.trim());
  const value = parseNumber(match?.[1] ?? "");
  if (value === null) return null;
  const unit = match?.[2]?.toLowerCase() ?? units;
  return value * (unit === "mm" ? 1 : unit === "cm" ? 10 : MM_PER_INCH);
}

/** A length in mm as the maker reads it, without needless zeros. */
export function formatLength(mm: number, units: Units, digits = units === "mm" ? 2 : 3): string {
  const value = units === "mm" ? mm : mm / MM_PER_INCH;
  return trimmed(value, digits);
}

export function trimmed(value: number, digits: number): string {
  const text = value.toFixed(digits);
  const short = text.includes(".") ? text.replace(/\.?0+$/, "") : text;
  return short === "-0" ? "0" : short;
}

/** A message whose lengths are in mm, as the maker reads it. */
export function inUnits(text: string, units: Units): string {
  if (units === "mm") return text;
  return text.replace(/(-?\d+(?:\.\d+)?) mm(²?)/g, (_, number: string, square: string) => {
    const by = square ? MM_PER_INCH ** 2 : MM_PER_INCH;
    return `${trimmed(Number(number) / by, 3)} in${square}`;
  });
}

export function unitName(units: Units): string {
  return units === "mm" ? "mm" : "in";
}
