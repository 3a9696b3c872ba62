import type { Edit } from "../../../api/client";
import { PLAIN, type Notation } from "../../../ui/fields";
import { trimmed } from "../../../ui/length";
import { underlayOf, usePicture, useShown } from "../../select";
import { useOverlaid } from "../../overlaid";
import { useBench } from "../../store";

export type Change = Omit<Extract<Edit, { do: "set-trace" }>, "do" | "area" | "picture">;

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
  const picture = usePicture();
  const flat = useShown();
  const current = useBench((s) => s.area);
  const { previewEdit, commit } = useBench.getState();
  const area = picture?.areas.find((a) => a.id === current) ?? picture?.areas[0];
  const id = area?.id ?? null;
  const kept = area?.trace ?? picture?.trace;
  const of = { picture: picture?.id ?? null, area: id };
  const drafted: Change = useOverlaid(
    "set-trace",
    (e) => (e.area ?? null) === id && e.picture === of.picture,
  );
  return {
    picture,
    underlay: underlayOf(flat, picture?.id),
    flat,
    area,
    trace: flat?.traces.find((t) => t.picture === picture?.id && t.area === id) ?? null,
    kept,
    now: { ...kept, ...drafted },
    preview: (change: Change) => previewEdit({ do: "set-trace", ...change, ...of }),
    commit: (change: Change) => commit({ do: "set-trace", ...change, ...of }),
  };
}
