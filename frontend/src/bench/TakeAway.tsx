import { useMutation } from "@tanstack/react-query";
import { CircleCheck } from "lucide-react";
import { useState } from "react";

import { api, data, type Schemas, type TakeAway as Taken } from "../api/client";
import { Button } from "../ui/Button";
import { Choice } from "../ui/fields";
import { formatLength, unitName } from "../ui/length";
import { useBegun, useUnits } from "./select";
import { useBench } from "./store";

type Request = Schemas["TakeAwayRequest"];
type Kind = Request["kind"];
type Fineness = NonNullable<Request["fineness"]>;

const KINDS = [
  { value: "3mf", name: "3MF" },
  { value: "stl", name: "STL" },
] as const;
const FINENESS = [
  { value: "draft", name: "draft" },
  { value: "normal", name: "normal" },
  { value: "fine", name: "fine" },
] as const;
const ABOUT: Record<Kind, string> = {
  "3mf": "One part a filament, with colours and names; opens in one piece.",
  stl: "One sealed surface, without colours.",
};
const WITHIN: Record<Fineness, string> = { draft: "0.05", normal: "0.008", fine: "0.002" };

/** Writes a file, reads it back, checks it, and hands it over. */
export function TakeAway() {
  const piece = useBench((s) => s.piece);
  const begun = useBegun();
  const units = useUnits();
  const [kind, setKind] = useState<Kind>("3mf");
  const [fineness, setFineness] = useState<Fineness>("normal");
  const take = useMutation({
    mutationFn: async () => {
      if (!piece) throw new Error("No piece is open.");
      return data<Taken>(
        api.POST("/api/pieces/{piece_id}/take-away", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision, kind, fineness },
        }),
      );
    },
    onSuccess: (file) => {
      const link = document.createElement("a");
      link.href = file.url;
      link.download = file.name;
      link.click();
    },
  });
  const file = take.data;
  return (
    <section aria-label="Take away">
      <h2 className="mb-2 text-[15px]">Take away</h2>
      <Choice label="Kind of file" value={kind} options={KINDS} onChange={setKind} />
      <p className="text-soft mt-1.5 mb-3 text-xs">{ABOUT[kind]}</p>
      <Choice label="Fineness of curves" value={fineness} options={FINENESS} onChange={setFineness} />
      <p className="text-soft mt-1.5 mb-3 text-xs">Curves within {WITHIN[fineness]} mm.</p>
      <Button kind="act" className="w-full" disabled={take.isPending || !begun} onClick={() => take.mutate()}>
        {take.isPending ? "Building and checking …" : `Take ${kind.toUpperCase()}`}
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
                {file.triangles.toLocaleString("en")} ·{" "}
                {Math.max(1, Math.round(file.bytes / 1024)).toLocaleString("en")} kB
              </dd>
            </dl>
            {file.parts > 1 && (
              <p className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-3 py-1.5">
                It falls into {file.parts} separate parts.
              </p>
            )}
          </div>
        )}
      </div>
    </section>
  );
}
