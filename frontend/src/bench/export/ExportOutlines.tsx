import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice, NumberField, PLAIN, SwitchField } from "../../ui/fields";
import { formatLength, unitName } from "../../ui/length";
import { useShown, useUnits } from "../select";
import { boxOf, idsOf } from "../shape/objects";
import { useItems, usePicked } from "../shape/useSheet";
import { lengths } from "../stops/parts";
import { useBench } from "../store";
import { inBytes } from "../../ui/bytes";
import { download } from "./download";

const WHAT = [
  { value: "outlines", name: "Outlines" },
  { value: "middles", name: "Middle lines" },
] as const;

export type OutlineKind = Schemas["OutlinesRequest"]["kind"];

/** Outlines as SVG, DXF or PNG: all or what is picked, as wide as they are or as wide as is typed. */
export function ExportOutlines({ kind }: { kind: OutlineKind }) {
  const piece = useBench((s) => s.piece);
  const picked = usePicked();
  const items = useItems();
  const units = useUnits();
  const [only, setOnly] = useState(false);
  const [spline, setSpline] = useState(false);
  const [kept, setKept] = useState(false);
  const [tolerance, setTolerance] = useState(0.01);
  const [dpi, setDpi] = useState(300);
  const [typed, setTyped] = useState<number | null>(null);
  const strokes = useShown()?.traces.some((trace) => trace.stroke_width !== null) && kind !== "png";
  const [what, setWhat] = useState<"outlines" | "middles">("outlines");
  const middles = strokes && what === "middles";
  const written = only && picked.length && !middles ? picked : items;
  const box = boxOf(written);
  const width = typed ?? box?.width ?? 0;
  const by = box?.width ? width / box.width : 1;
  const take = useMutation({
    mutationFn: async () => {
      if (!piece) throw new Error("No piece is open.");
      return data(
        api.POST("/api/pieces/{piece_id}/outlines", {
          params: { path: { piece_id: piece.id } },
          body: {
            revision: piece.revision,
            kind,
            picked: only ? idsOf(picked) : [],
            spline,
            tolerance,
            dpi,
            kept,
            width: typed,
            middles: Boolean(middles),
          },
        }),
      );
    },
    onSuccess: download,
  });
  return (
    <>
      {strokes && (
        <div className="mb-2">
          <Choice label="Lines to export" value={what} options={WHAT} onChange={setWhat} />
          <p className="text-soft pt-1 text-xs">
            {middles
              ? kind === "svg"
                ? "One path per stroke, down its middle, with its width. Filled shapes keep their outlines."
                : "One line per stroke, down its middle, with a layer for each width and one for filled shapes."
              : "Closed outlines round what the strokes cover."}
          </p>
        </div>
      )}
      <div className="space-y-1.5">
        <NumberField
          label="Width"
          notation={lengths(units)}
          value={width}
          min={0.1}
          max={10_000}
          step={1}
          disabled={!box}
          onCommit={setTyped}
        />
        <p className="text-soft flex justify-between text-xs">
          <span>
            {box &&
              `${formatLength(box.width * by, units)} × ${formatLength(box.height * by, units)} ${unitName(units)}`}
          </span>
          {typed !== null && (
            <button
              type="button"
              className="text-act font-semibold hover:underline"
              onClick={() => setTyped(null)}
            >
              as drawn
            </button>
          )}
        </p>
      </div>
      {picked.length > 0 && !middles && (
        <SwitchField label="Only what is picked" checked={only} onChange={setOnly} />
      )}
      {kind === "dxf" && (
        <>
          <SwitchField label="Curves as splines" checked={spline} onChange={setSpline} />
          <SwitchField label="Keep the sheet's origin" checked={kept} onChange={setKept} />
          {!spline && (
            <NumberField
              label="Curve tolerance"
              notation={lengths(units)}
              value={tolerance}
              min={0.0005}
              max={1}
              step={0.005}
              onCommit={setTolerance}
            />
          )}
        </>
      )}
      {kind === "png" && (
        <NumberField
          label="Resolution"
          notation={{ ...PLAIN, unit: "dpi" }}
          value={dpi}
          min={10}
          max={2400}
          step={50}
          onCommit={setDpi}
        />
      )}
      <Button
        kind="act"
        className="mt-2 w-full"
        disabled={take.isPending || !written.length}
        onClick={() => take.mutate()}
      >
        {take.isPending ? "Writing …" : `Export ${kind.toUpperCase()}`}
      </Button>
      <div aria-live="polite">
        {take.isError && (
          <p className="border-error bg-error-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1.5">
            {take.error.message}
          </p>
        )}
        {take.data && (
          <p className="mt-2">
            <a href={take.data.url} download={take.data.name} className="underline">
              {take.data.name}
            </a>
            , {inBytes(take.data.bytes)}
          </p>
        )}
      </div>
    </>
  );
}
