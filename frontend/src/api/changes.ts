import type { Bench, Document, Flat, Schemas } from "./client";

type BenchAnswer = Schemas["BenchAnswer"];
type FlatAnswer = Schemas["FlatAnswer"];
type Row = { id: string };
type Rows = { order: readonly [number, number, readonly string[]] | null; changed: readonly Row[] };
type Part<T> = { fields: Partial<T>; rows: Record<string, Rows | undefined> };

/** A piece as it stands after an answer that may hold only what changed of the one before. */
export function wholeBench(answer: BenchAnswer, before: Bench): Bench {
  if (!("document" in answer)) return answer;
  const document = withPart<Document>(before.piece.document, answer.document as Part<Document>);
  return {
    piece: { ...answer.piece, document },
    flat: withPart<Flat>(before.flat, answer.flat as Part<Flat>),
    together: false,
  };
}

export function wholeFlat(answer: FlatAnswer, before: Flat | null): Flat {
  if (!("rows" in answer)) return answer;
  if (!before) throw new Error("There is no flat view to change.");
  return withPart(before, answer as Part<Flat>);
}

/** A value with the parts that changed; rows that did not change stay the same objects. */
export function withPart<T extends object>(before: T, part: Part<T>): T {
  const lists = Object.entries(part.rows).flatMap(([name, found]) => {
    if (!found) return [];
    const old = before[name as keyof T] as readonly Row[];
    const rows = new Map(old.map((row) => [row.id, row]));
    for (const row of found.changed) rows.set(row.id, row);
    const ids = old.map((row) => row.id);
    if (found.order) ids.splice(found.order[0], found.order[1], ...found.order[2]);
    return [[name, ids.flatMap((id) => rows.get(id) ?? [])]];
  });
  return { ...before, ...part.fields, ...(Object.fromEntries(lists) as Partial<T>) };
}
