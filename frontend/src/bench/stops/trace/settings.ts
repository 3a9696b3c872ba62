import type { Edit } from "../../../api/client";
import { PLAIN, type Notation } from "../../../ui/fields";
import { trimmed } from "../../../ui/length";
import { useDocument, useShown } from "../../select";
import { useBench } from "../../store";

export type Change = Omit<Extract<Edit, { do: "set-trace" }>, "do" | "area">;

export const CALM = 0.5;
export const KEEN = 0.5;

export const percent: Notation = {
  parse: (text: string) => {
    const value = PLAIN.parse(text.replace("%", ""));
    return value === null ? null : value / 100;
  },
  format: (value: number) => trimmed(value * 100, 1),
  unit: "%",
};

export const found = (value: unknown): boolean => value === null || value === undefined;

/** The settings of the trace that is tuned, as the hand would have them now, and the two ways to change them. */
export function useTrace() {
  const document = useDocument();
  const flat = useShown();
  const draft = useBench((s) => s.draft);
  const current = useBench((s) => s.area);
  const { previewEdit, commit } = useBench.getState();
  const areas = document?.areas ?? [];
  const area = areas.find((a) => a.id === current) ?? areas[0];
  const id = area?.id ?? null;
  const kept = area?.trace ?? document?.trace;
  const drafted: Change = draft?.do === "set-trace" && (draft.area ?? null) === id ? draft : {};
  return {
    document,
    flat,
    area,
    trace: flat?.traces.find((t) => t.area === id) ?? null,
    kept,
    now: { ...kept, ...drafted },
    preview: (change: Change) => previewEdit({ do: "set-trace", ...change, area: id }),
    commit: (change: Change) => commit({ do: "set-trace", ...change, area: id }),
  };
}
