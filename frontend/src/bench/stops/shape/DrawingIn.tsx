import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, data } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Choice, NumberField } from "../../../ui/fields";
import { DRAWINGS } from "../../../ui/kinds";
import { useUnits } from "../../select";
import { seed } from "../../shape/objects";
import { useShape } from "../../shape/state";
import { useBench } from "../../store";
import { fitNext } from "../../signals";
import { lengths, Section } from "../parts";

/** mm; what is wider than most beds is offered smaller. */
const BED = 200;
const STROKES = [
  { value: "areas", name: "strokes as areas" },
  { value: "lines", name: "as lines" },
] as const;
const UNITS = ["mm", "cm", "m", "inch", "foot"] as const;

/** An SVG or DXF file: its true size is shown before it is placed. */
export function DrawingIn() {
  const input = useRef<HTMLInputElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const piece = useBench((s) => s.piece);
  const units = useUnits();
  const file = useShape((s) => s.brought);
  const [unit, setUnit] = useState<(typeof UNITS)[number] | "">("");
  const [join, setJoin] = useState(0.01);
  const [strokes, setStrokes] = useState<"areas" | "lines">("areas");
  const [wide, setWide] = useState<{ file: File; mm: number } | null>(null);
  const looked = useQuery({
    queryKey: ["drawing", piece?.id, file?.name, file?.size, file?.lastModified, unit, join, strokes],
    enabled: Boolean(piece && file),
    retry: false,
    queryFn: ({ signal }) =>
      data(
        api.POST("/api/pieces/{piece_id}/drawing/look", {
          params: { path: { piece_id: piece?.id ?? "" } },
          body: { drawing: file?.name ?? "" },
          bodySerializer: () => form(),
          signal,
        }),
      ),
  });
  const seen = file && looked.data;
  useEffect(() => {
    if (seen) box.current?.scrollIntoView({ block: "nearest" });
  }, [seen]);
  if (!piece) return null;
  const width = wide?.file === file ? wide.mm : null;
  const setWidth = (mm: number) => file && setWide({ file, mm });
  const take = (chosen: File | null) => useShape.getState().set({ brought: chosen });
  const form = () => {
    const body = new FormData();
    if (file) body.append("drawing", file);
    if (unit) body.append("unit", unit);
    body.append("join", String(join));
    body.append("strokes", strokes);
    return body;
  };
  const place = () => {
    if (!file) return;
    const name = seed();
    if (!useBench.getState().flat?.regions.length) fitNext.send();
    useBench.getState().make((now, headers) =>
      data(
        api.POST("/api/pieces/{piece_id}/drawing", {
          params: { path: { piece_id: now.id } },
          body: { drawing: file.name, revision: now.revision, seed: name },
          headers,
          bodySerializer: () => {
            const body = form();
            body.append("revision", String(now.revision));
            body.append("seed", name);
            if (width) body.append("width", String(width));
            return body;
          },
        }),
      ),
    );
    take(null);
  };
  return (
    <Section name="Bring in a drawing" side="SVG or DXF">
      <input
        ref={input}
        type="file"
        accept={DRAWINGS}
        aria-label="Drawing file"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          take(event.target.files?.[0] ?? null);
          event.target.value = "";
        }}
      />
      <Button className="w-full" onClick={() => input.current?.click()}>
        Choose a drawing …
      </Button>
      {file && looked.isError && (
        <p
          role="alert"
          className="border-error bg-error-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1.5 text-[13px]"
        >
          {looked.error.message}
        </p>
      )}
      {file && looked.isPending && (
        <p role="status" className="text-soft mt-2">
          Reading the drawing …
        </p>
      )}
      {seen && (
        <div ref={box} className="border-rule mt-2 scroll-mb-3 rounded-md border p-2">
          <svg
            viewBox={`${-seen.width * 0.03} ${-seen.height * 0.03} ${seen.width * 1.06 || 1} ${seen.height * 1.06 || 1}`}
            className="bg-sheet mb-1.5 h-28 w-full"
            role="img"
            aria-label="The drawing before it is placed"
          >
            <path
              d={(seen.path.match(/M[^M]*Z/g) ?? []).join("")}
              fill="var(--act)"
              fillOpacity={0.15}
              fillRule="evenodd"
            />
            <path d={seen.path} fill="none" stroke="var(--ink)" vectorEffect="non-scaling-stroke" />
          </svg>
          <p data-true-size className="mb-1">
            <b>
              {lengths(units).format(seen.width)} × {lengths(units).format(seen.height)} {lengths(units).unit}
            </b>
            , {seen.outlines} outlines{seen.open ? `, ${seen.open} open` : ""}; drawn in {seen.unit}
          </p>
          {seen.remarks.map((remark) => (
            <p key={remark} className="text-remark-text mb-1 text-[12.5px]">
              {remark}
            </p>
          ))}
          <div className="space-y-1.5">
            {seen.strokes > 0 && (
              <Choice label="Strokes come in as" value={strokes} options={STROKES} onChange={setStrokes} />
            )}
            <NumberField
              label="Width"
              notation={lengths(units)}
              value={width ?? seen.width}
              min={0.1}
              max={10_000}
              step={1}
              onCommit={setWidth}
            />
            {Math.max(seen.width, seen.height) > BED && (
              <Button
                className="w-full"
                onClick={() => setWidth((seen.width * BED) / Math.max(seen.width, seen.height))}
              >
                Fit to a bed of {BED} mm
              </Button>
            )}
            {file.name.toLowerCase().endsWith(".dxf") && (
              <>
                <label className="grid grid-cols-[1fr_104px] items-center gap-x-2">
                  Drawing unit
                  <select
                    className="bg-sheet border-hair h-8 rounded-md border px-1.5"
                    value={unit}
                    onChange={(event) => setUnit(event.target.value as typeof unit)}
                  >
                    <option value="">as the file says</option>
                    {UNITS.map((u) => (
                      <option key={u}>{u}</option>
                    ))}
                  </select>
                </label>
                <NumberField
                  label="Join ends within"
                  notation={lengths(units)}
                  value={join}
                  min={0}
                  max={10}
                  step={0.01}
                  onCommit={setJoin}
                />
              </>
            )}
            <div className="grid grid-cols-2 gap-1.5">
              <Button kind="act" onClick={place}>
                Place it
              </Button>
              <Button onClick={() => take(null)}>Leave it</Button>
            </div>
          </div>
        </div>
      )}
    </Section>
  );
}
