import type { Trouble } from "./state";

/** A time as one says it: 45 s, 12 min, 3 h 05 min. */
export function inTime(seconds: number): string {
  if (seconds < 60) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  return `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} min`;
}

export const inGrams = (grams: number) => `${grams.toFixed(grams < 10 ? 1 : 0)} g`;
export const inMetres = (metres: number) => `${metres.toFixed(metres < 10 ? 2 : 1)} m`;
export const inMoney = (price: number) => price.toFixed(2);

type Said = { name: string; why: string };

/** A trouble as the list names it, and what would mend it; mm writes a length. */
export function troubleWords(trouble: Trouble, mm: (value: number) => string): Said {
  const { kind, value, limit } = trouble;
  switch (kind) {
    case "not printed":
      return {
        name: "too thin to print",
        why: `It is ${mm(value)} wide; a line needs ${mm(limit)}. Thicken it in Raise, or use a finer nozzle.`,
      };
    case "gap closes":
      return {
        name: "gap that closes up",
        why: `It is ${mm(value)} wide, narrower than the nozzle. Widen it, or close it for good.`,
      };
    case "starts in the air":
      return {
        name: "starts in the air",
        why: "Nothing is below it. Lower it, or tie it to what stands beside it.",
      };
    case "overhang":
      return {
        name: "overhang",
        why: `${value.toFixed(1)} mm² reach out ${mm(limit)} with nothing below. Turn the piece over, or slope its edge.`,
      };
    case "bridge":
      return {
        name: "long bridge",
        why: `It spans ${mm(value)}; more than ${mm(limit)} sags. Add a support or close the hollow.`,
      };
    case "little hold":
      return {
        name: "poor hold on the bed",
        why: "It stands on too little for its height. Add a brim or a base.",
      };
    case "loose part":
      return {
        name: "loose part",
        why: `This part, ${mm(value)} across, is not joined to the rest. Tie it, or put a base under everything.`,
      };
    case "too large":
      return { name: "too large for the bed", why: `It is ${mm(value)} across, the bed ${mm(limit)}.` };
    case "too tall":
      return {
        name: "too tall for the printer",
        why: `It is ${mm(value)} high, the printer reaches ${mm(limit)}.`,
      };
    case "between layers":
      return {
        name: "height between two layers",
        why: `It should end at ${mm(value)} but will end at ${mm(limit)}. Set a height that is a whole number of layers.`,
      };
  }
}

export const KIND_COLOURS: Record<string, string> = {
  "outer wall": "#1f7a72",
  "inner wall": "#5fa79f",
  "thin wall": "#c98a0b",
  skin: "#6d5f8d",
  infill: "#b08d6e",
  brim: "#8a8f98",
};
