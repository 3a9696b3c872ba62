import type { Document, Edit, Filament, Flat, Region, Schemas } from "../api/client";
import type { Units } from "../ui/length";
import { useBench } from "./store";

/** The flat view as the hand would have it now, else as it stands. */
export const useShown = (): Flat | null => useBench((s) => s.preview ?? s.flat);

export const useDocument = (): Document | null => useBench((s) => s.piece?.document ?? null);

export const useUnits = (): Units => useBench((s) => s.piece?.document.units ?? "mm");

export function filamentsOf(document: Document | null): readonly Filament[] {
  return document?.filaments ?? [];
}

export function colourOf(document: Document | null, id: string): string {
  return filamentsOf(document).find((f) => f.id === id)?.colour ?? "#888888";
}

/** An edit for regions as the flat view names them. */
export function regionsEdit(
  regions: readonly Region[],
  change: {
    height?: number | "through" | null;
    filament?: string | null;
    name?: string | null;
    left_out?: boolean;
    edge?: Schemas["EdgeOptions"] | null;
  },
): Edit {
  return { do: "set-regions", picked: regions.map(({ id, mark }) => ({ id, mark })), ...change };
}

/** What is said of a height. */
export function heightWords(height: Region["height"], format: (mm: number) => string): string {
  if (height === "through") return "through";
  if (height === 0) return "flush";
  return height > 0 ? format(height) : `sunk ${format(-height)}`;
}

/** Where the piece's picture is served, as its care leaves it. */
export const useLook = (): string =>
  useBench((s) => {
    const look = s.flat?.underlay?.look;
    return s.piece && look ? `/api/pieces/${s.piece.id}/underlay/${look}` : "";
  });

/** Whether the piece has anything to work on: a picture, or something drawn. */
export const useBegun = (): boolean =>
  useBench((s) => Boolean(s.piece?.document.source || s.piece?.document.drawn?.length));
