import { useMutation, useQuery } from "@tanstack/react-query";
import { Download, Printer } from "lucide-react";
import { useNavigate } from "react-router";

import { api, data, Refused } from "../api/client";
import { download } from "../bench/export/download";
import { inGrams, inMetres, inMoney, inTime, troubleWords } from "../bench/prove/words";
import { Section } from "../bench/stops/parts";
import { isOpen, usePrinter } from "../printer/usePrinter";
import { Button } from "../ui/Button";
import type { Notation } from "../ui/fields";
import { useNotices } from "../ui/notices";

type Props = { plan: string; version: number; bed: number; beds: number; wrong: number; notation: Notation };

const MOST = 12;

/** What a bed comes to, from the bytes of its own file. */
export function BedFigures({ plan, version, bed, beds, wrong, notation }: Props) {
  const { refuse } = useNotices();
  const navigate = useNavigate();
  const { device, print } = usePrinter();
  const path = { plan, bed };
  const rehearsal = useQuery({
    queryKey: ["bed-rehearsal", plan, version, bed],
    queryFn: ({ signal }) => data(api.POST("/api/beds/{plan}/{bed}/rehearsal", { params: { path }, signal })),
    enabled: wrong === 0,
    staleTime: Infinity,
    retry: (count, error) => error instanceof Refused && error.superseded && count < 3,
  });
  const save = useMutation({
    mutationFn: () => data(api.POST("/api/beds/{plan}/{bed}/file", { params: { path } })),
    onSuccess: download,
    onError: (error) => refuse(error.message),
  });
  const report = wrong ? undefined : rehearsal.data?.report;
  const mm = (value: number) => `${notation.format(value)} ${notation.unit}`;
  const kinds = [...new Map(report?.troubles.map((one) => [one.kind, one])).values()];
  return (
    <Section name={beds > 1 ? `Bed ${bed + 1}` : "The print"}>
      {wrong > 0 && <p className="text-soft">Make room for every copy first.</p>}
      {wrong === 0 && rehearsal.isPending && (
        <p role="status" className="text-soft">
          Rehearsing the print …
        </p>
      )}
      {rehearsal.error && (
        <p role="alert" className="text-error">
          {rehearsal.error.message}
        </p>
      )}
      {report && (
        <>
          <p className="flex items-baseline justify-between">
            <span className="font-head text-2xl tabular-nums">{inTime(report.seconds)}</span>
            <span className="text-soft tabular-nums">
              {inGrams(report.grams)} · {inMetres(report.metres)} · {inMoney(report.price)}
            </span>
          </p>
          <ul className="border-rule mt-2 border-t text-[13px]">
            {report.bodies.map((body, i) => (
              <li key={i} className="border-rule flex items-center gap-1.5 border-b py-1">
                <span
                  aria-hidden
                  className="border-hair size-3 rounded-full border"
                  style={{ background: body.colour }}
                />
                <span className="grow truncate">{body.name}</span>
                <span className="tabular-nums">{inGrams(body.grams)}</span>
              </li>
            ))}
          </ul>
          {rehearsal.data?.remarks.map((remark) => (
            <p
              key={remark}
              className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1 text-[13px]"
            >
              {remark}
            </p>
          ))}
          {kinds.map((one) => (
            <p
              key={one.kind}
              className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1 text-[13px]"
            >
              {report.troubles.filter((t) => t.kind === one.kind).length} × {troubleWords(one, mm).name}
            </p>
          ))}
          {report.changes.length > 0 && (
            <>
              <h3 className="mt-3 mb-1 text-[14px]">Filament changes</h3>
              <ol className="text-[13px]">
                {report.changes.slice(0, MOST).map((change, i) => (
                  <li key={i} className="py-0.5">
                    {change.words}
                  </li>
                ))}
              </ol>
              {report.changes.length > MOST && (
                <p className="text-soft text-xs">and {report.changes.length - MOST} more</p>
              )}
            </>
          )}
        </>
      )}
      {report && (
        <Button
          className="mt-3 w-full"
          disabled={print.isPending || isOpen(device?.status) || !device?.status}
          onClick={() => print.mutate({ plan, bed }, { onSuccess: () => void navigate("/printer") })}
        >
          <Printer size={15} aria-hidden /> {print.isPending ? "Sending …" : "Print on the stand-in"}
        </Button>
      )}
      <Button
        kind="act"
        className="mt-3 w-full"
        disabled={save.isPending || wrong > 0}
        onClick={() => save.mutate()}
      >
        <Download size={15} aria-hidden /> {save.isPending ? "Writing …" : "Export this bed as 3MF"}
      </Button>
    </Section>
  );
}
