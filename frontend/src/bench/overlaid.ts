import type { Edit } from "../api/client";
import { useBench } from "./store";

type Of<D extends Edit["do"]> = Extract<Edit, { do: D }>;

/**
 * What edits of one kind say that are not stored yet: those that wait in their order, then the one at hand. What a later
 * one says of a field counts; parts of forms are put together field by field.
 */
export function overlaid<D extends Edit["do"]>(
  kind: D,
  waiting: readonly Edit[],
  draft: Edit | null,
  concerns: (edit: Of<D>) => boolean = () => true,
): Partial<Of<D>> {
  const all = draft && !waiting.includes(draft) ? [...waiting, draft] : waiting;
  const mine = all.filter((edit): edit is Of<D> => edit.do === kind && concerns(edit as Of<D>));
  return mine.reduce<Partial<Of<D>>>((before, edit) => ({ ...before, ...edit, ...nested(before, edit) }), {});
}

/** The same for what is on the bench. */
export function useOverlaid<D extends Edit["do"]>(
  kind: D,
  concerns?: (edit: Of<D>) => boolean,
): Partial<Of<D>> {
  const waiting = useBench((s) => s.waiting);
  const draft = useBench((s) => s.draft);
  return overlaid(kind, waiting, draft, concerns);
}

const FORMS = ["relief", "stamp", "cutter", "nameplate"] as const;

function nested(before: object, edit: object): object {
  const of = (from: object, name: string) => (from as Record<string, unknown>)[name];
  const both = FORMS.filter((name) => of(before, name) && of(edit, name));
  return Object.fromEntries(
    both.map((name) => [name, { ...(of(before, name) as object), ...(of(edit, name) as object) }]),
  );
}
