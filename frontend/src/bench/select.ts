import type { Document, Edit, Filament, Flat, Picture, Region, Schemas, Underlay } from "../api/client";
import type { Units } from "../ui/length";
import { hasBegun } from "./begun";
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
    edge?: Schemas["EdgeOptions-Input"] | null;
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

/** The picture of a piece that the hand is at: the one that was chosen, else the last one. */
export function pictureOf(document: Document | null | undefined, chosen: string | null): Picture | null {
  return document?.pictures.find((p) => p.id === chosen) ?? document?.pictures.at(-1) ?? null;
}

export const usePicture = (): Picture | null => useBench((s) => pictureOf(s.piece?.document, s.picture));

/** Where that picture lies on the sheet. */
export const useUnderlay = (): Underlay | null =>
  useBench((s) => underlayOf(s.preview ?? s.flat, pictureOf(s.piece?.document, s.picture)?.id));

export const underlayOf = (flat: Flat | null, picture: string | undefined): Underlay | null =>
  flat?.underlays.find((u) => u.id === picture) ?? null;

/** Where a picture of a piece is served, as its care leaves it. */
export const lookOf = (piece: string, look: string): string => `/api/pieces/${piece}/underlay/${look}`;

/** Where the picture that the hand is at is served. */
export const useLook = (): string =>
  useBench((s) => {
    const look = underlayOf(s.flat, pictureOf(s.piece?.document, s.picture)?.id)?.look;
    return s.piece && look ? lookOf(s.piece.id, look) : "";
  });

/** Why the form can't be built, where it is one of these fields that would mend it. */
export const useProblemAt = (...fields: readonly string[]): string | undefined =>
  useBench((s) => {
    const problem = (s.preview ?? s.flat)?.problem;
    return problem && fields.includes(problem.field) ? problem.message : undefined;
  });

/** Whether the piece has anything to work on: a picture, something drawn, or a base that stands alone. */
export const useBegun = (): boolean => useBench((s) => hasBegun(s.piece?.document));
