import type { Bench, Document, Flat, Schemas } from "./client";

type Part = Schemas["PartOut"];
type BenchAnswer = Schemas["BenchAnswer"];
type FlatAnswer = Schemas["FlatAnswer"];
type Row = { id: string };

/** A piece as it stands after an answer that may hold only what changed of the one before. */
export function wholeBench(answer: BenchAnswer, before: Bench): Bench {
  if (!("document" in answer)) return answer as Bench;
  const document = withPart<Document>(before.piece.document, answer.document);
  return { piece: { ...answer.piece, document }, flat: withPart<Flat>(before.flat, answer.flat) };
}

export function wholeFlat(answer: FlatAnswer, before: Flat | null): Flat {
  if (!("rows" in answer)) return answer as Flat;
  if (!before) throw new Error("There is no flat view to change.");
  return withPart(before, answer);
}

/** A value with the parts that changed; rows that did not change stay the same objects. */
export function withPart<T extends object>(before: T, part: Part): T {
  const lists = Object.entries(part.rows).map(([name, { order, changed }]) => {
    const old = before[name as keyof T] as readonly Row[];
    const rows = new Map(old.map((row) => [row.id, row]));
    for (const row of changed as Row[]) rows.set(row.id, row);
    const ids = order ?? old.map((row) => row.id);
    return [name, ids.flatMap((id) => rows.get(id) ?? [])];
  });
  return { ...before, ...(part.fields as Partial<T>), ...(Object.fromEntries(lists) as Partial<T>) };
}
