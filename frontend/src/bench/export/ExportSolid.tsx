import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { CircleCheck } from "lucide-react";
import { useState } from "react";

import { api, data, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice, NumberField } from "../../ui/fields";
import { formatLength, unitName } from "../../ui/length";
import { useBegun, useUnits } from "../select";
import { lengths } from "../stops/parts";
import { useBench } from "../store";
import { inBytes } from "../../ui/bytes";
import { download } from "./download";

export type SolidKind = Schemas["TakeAwayRequest"]["kind"];

const FINENESS = [
  { value: "0.05", name: "draft" },
  { value: "0.008", name: "normal" },
  { value: "0.002", name: "fine" },
] as const;
const NORMAL = 0.008;

/** Writes the solid, reads the file back, checks it, and hands it over. */
export function ExportSolid({ kind, name }: { kind: SolidKind; name: string }) {
  const piece = useBench((s) => s.piece);
  const begun = useBegun();
  const units = useUnits();
  const [within, setWithin] = useState(NORMAL);
  const weight = useQuery({
    queryKey: ["file-weight", piece?.id, piece?.revision, kind, within],
    queryFn: ({ signal }) =>
      data(
        api.POST("/api/pieces/{piece_id}/file-weight", {
          params: { path: { piece_id: piece?.id ?? "" } },
          body: { revision: piece?.revision ?? 0, kind, within },
          signal,
        }),
      ),
    enabled: begun && piece !== null,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
  const take = useMutation({
    mutationFn: async () => {
      if (!piece) throw new Error("No piece is open.");
      return data(
        api.POST("/api/pieces/{piece_id}/take-away", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision, kind, within },
        }),
      );
    },
    onSuccess: download,
  });
  const file = take.data;
  return (
    <>
      <Choice
        label="Fineness of curves"
        value={FINENESS.find((f) => Number(f.value) === within)?.value ?? ""}
        options={FINENESS}
        onChange={(value) => setWithin(Number(value))}
      />
      <div className="mt-1.5">
        <NumberField
          label="Curve tolerance"
          value={within}
          notation={{ ...lengths(units), format: (mm) => formatLength(mm, units, 4) }}
          min={0.0005}
          max={1}
          step={0.001}
          onCommit={setWithin}
        />
      </div>
      <p
        role="status"
        className={`text-soft mt-1.5 mb-3 text-xs ${weight.isPlaceholderData ? "opacity-60" : ""}`}
      >
        {weight.data
          ? `${weight.data.triangles.toLocaleString("en")} triangles, ${inBytes(weight.data.bytes)}`
          : begun && !weight.isError
            ? "Counting triangles …"
            : ""}
      </p>
      <Button kind="act" className="w-full" disabled={take.isPending || !begun} onClick={() => take.mutate()}>
        {take.isPending ? "Building and checking …" : `Export ${name}`}
      </Button>
      <div aria-live="polite">
        {take.isError && (
          <p className="border-error bg-error-wash mt-3 rounded-r-md border-l-4 px-3 py-2">
            {take.error.message}
          </p>
        )}
        {file && (
          <div className="mt-3">
            <p className="text-act flex items-center gap-1.5 font-semibold">
              <CircleCheck size={16} aria-hidden /> Sealed: read back and checked
            </p>
            <dl className="text-soft mt-1 grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-[12.5px]">
              <dt>File</dt>
              <dd className="text-ink truncate text-right" title={file.name}>
                <a href={file.url} download={file.name} className="underline">
                  {file.name}
                </a>
              </dd>
              <dt>Size</dt>
              <dd className="text-ink text-right">
                {file.size_mm.map((v) => formatLength(v, units)).join(" × ")} {unitName(units)}
              </dd>
              <dt>Volume</dt>
              <dd className="text-ink text-right">{(file.volume_mm3 / 1000).toFixed(2)} cm³</dd>
              <dt>Triangles</dt>
              <dd className="text-ink text-right">
                {file.triangles.toLocaleString("en")} · {inBytes(file.bytes)}
              </dd>
            </dl>
            {file.parts > 1 && (
              <p className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-3 py-1.5">
                It comes out in {file.parts} separate parts.
              </p>
            )}
          </div>
        )}
      </div>
    </>
  );
}
