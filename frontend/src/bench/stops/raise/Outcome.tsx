import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Image } from "lucide-react";
import { useState } from "react";

import { api, data } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { NumberField, PLAIN, type Notation } from "../../../ui/fields";
import { download } from "../../export/download";
import { recalled, remember } from "../../remembered";
import { useUnits } from "../../select";
import { useBench } from "../../store";
import { lengths, Section } from "../parts";

const SHARE: Notation = {
  parse: (text) => {
    const found = PLAIN.parse(text.replace("%", ""));
    return found === null ? null : found / 100;
  },
  format: (value) => String(Math.round(value * 100)),
  unit: "%",
};
const SPREAD = "ink-spread";
const RISE = "dough-rise";

/** The print that a stamp makes, or the biscuit that a cutter cuts, the right way round. */
export function Outcome({ form }: { form: "stamp" | "cutter" }) {
  const isStamp = form === "stamp";
  const name = isStamp ? "The print it makes" : "The biscuit it cuts";
  const units = useUnits();
  const id = useBench((s) => s.piece?.id ?? "");
  const revision = useBench((s) => s.piece?.revision ?? 0);
  const here = useBench((s) => s.piece?.document.form === form);
  const [spread, setSpread] = useState(() => recalled<number>(SPREAD, 0.15));
  const [rise, setRise] = useState(() => recalled<number>(RISE, 0.08));
  const query = isStamp ? { spread, rise: 0 } : { spread: 0, rise };
  const found = useQuery({
    queryKey: ["outcome", id, revision, form, query],
    queryFn: async ({ signal }) =>
      (
        await data(
          api.GET("/api/pieces/{piece_id}/outcome/{revision}", {
            params: { path: { piece_id: id, revision }, query },
            signal,
          }),
        )
      ).outcome,
    enabled: here && id !== "",
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  }).data;
  const [left, top, width, height] = found?.box ?? [0, 0, 1, 1];
  const pad = 0.06 * Math.max(width, height);
  const take = () =>
    download({
      url: `/api/pieces/${id}/outcome/${revision}/png?spread=${query.spread}&rise=${query.rise}`,
      name: `${form}.png`,
    });
  return (
    <Section name={name}>
      <svg
        role="img"
        aria-label={name}
        viewBox={`${left - pad} ${top - pad} ${width + 2 * pad} ${height + 2 * pad}`}
        className="bg-sheet border-rule h-36 w-full rounded-md border"
      >
        {found && (
          <>
            <path
              d={found.shape}
              fill={isStamp ? "var(--ink)" : "#e2b980"}
              stroke={isStamp ? "none" : "#b98145"}
              strokeWidth={isStamp ? 0 : 0.8}
              fillRule="evenodd"
            />
            <path d={found.marks} fill="#a06f3c" fillRule="evenodd" />
            <path d={found.closed} fill="var(--remark)" fillRule="evenodd" data-closed={found.places} />
          </>
        )}
      </svg>
      <div className="mt-1.5 space-y-1.5">
        {isStamp ? (
          <NumberField
            label="Ink spreads by"
            value={spread}
            notation={lengths(units)}
            min={0}
            max={5}
            step={0.05}
            onCommit={(mm) => {
              setSpread(mm);
              remember(SPREAD, mm);
            }}
          />
        ) : (
          <NumberField
            label="Rises by"
            value={rise}
            notation={SHARE}
            min={0}
            max={1}
            step={0.02}
            onCommit={(share) => {
              setRise(share);
              remember(RISE, share);
            }}
          />
        )}
        {found && found.places > 0 && (
          <p className="border-remark bg-remark-wash rounded-r-md border-l-4 px-2.5 py-1 text-[13px]">
            {found.places === 1 ? "1 gap closes" : `${found.places} gaps close`}. Widen{" "}
            {found.places === 1 ? "it" : "them"}, or make the art larger.
          </p>
        )}
        <Button className="w-full" disabled={!found} onClick={take}>
          <Image size={15} aria-hidden /> Save as PNG
        </Button>
      </div>
    </Section>
  );
}
