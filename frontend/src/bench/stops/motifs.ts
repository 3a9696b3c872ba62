import type { Schemas } from "../../api/client";

export type Motif = Schemas["MotifOut"];

/** Motifs for which every word typed begins their name or a word that they are found under. */
export function found(motifs: readonly Motif[], typed: string): Motif[] {
  const wanted = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return motifs.filter((motif) => {
    const own = [...motif.name.toLowerCase().split(/\s+/), ...motif.words, ...motif.kind.split(" ")];
    return wanted.every((word) => own.some((o) => o.startsWith(word) || word === `${o}s`));
  });
}
