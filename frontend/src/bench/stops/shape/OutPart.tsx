import { useMutation } from "@tanstack/react-query";
import { Play } from "lucide-react";
import { useState } from "react";

import { api, data, type Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN, SwitchField } from "../../../ui/fields";
import { useUnits } from "../../select";
import { idsOf, namesOf, type Item, seed } from "../../shape/objects";
import { useShape } from "../../shape/state";
import { useItems, usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { focusOn } from "../../useLookOver";
import { lengths, Section } from "../parts";

type Kind = Schemas["OutlinesRequest"]["kind"];
const KINDS = [
  { value: "svg", name: "SVG" },
  { value: "dxf", name: "DXF" },
  { value: "png", name: "PNG" },
] as const;
const ABOUT: Record<Kind, string> = {
  svg: "In mm, one path an outline, grouped by colour and name.",
  dxf: "R2010 in mm, closed outlines on layers by colour and name.",
  png: "Filled outlines over nothing, smooth at their edges.",
};

export function OutPart() {
  return (
    <>
      <Outlines />
      <PlayThrough />
    </>
  );
}

function Outlines() {
  const piece = useBench((s) => s.piece);
  const picked = usePicked();
  const items = useItems();
  const units = useUnits();
  const [kind, setKind] = useState<Kind>("svg");
  const [only, setOnly] = useState(false);
  const [spline, setSpline] = useState(false);
  const [kept, setKept] = useState(false);
  const [tolerance, setTolerance] = useState(0.01);
  const [dpi, setDpi] = useState(300);
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
          },
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
  return (
    <Section name="Outlines out">
      <Choice label="Kind of drawing" value={kind} options={KINDS} onChange={setKind} />
      <p className="text-soft mt-1.5 text-xs">{ABOUT[kind]}</p>
      <SwitchField label="Only what is picked" checked={only} onChange={setOnly} />
      {kind === "dxf" && (
        <>
          <SwitchField label="Curves as splines" checked={spline} onChange={setSpline} />
          <SwitchField label="Keep the sheet's origin" checked={kept} onChange={setKept} />
          {!spline && (
            <NumberField
              label="Curves within"
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
        disabled={take.isPending || !items.length || (only && !picked.length)}
        onClick={() => take.mutate()}
      >
        {take.isPending ? "Writing …" : `Take ${kind.toUpperCase()}`}
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
            , {Math.max(1, Math.round(take.data.bytes / 1024)).toLocaleString("en")} kB
          </p>
        )}
      </div>
    </Section>
  );
}

function PlayThrough() {
  const items = useItems();
  const { set } = useShape.getState();
  const { pickAll, commit } = useBench.getState();
  const open = items.filter((i) => i.open);
  const crossed = items.filter((i) => i.crossings.length && !i.open);
  const show = (item: Item) => pickAll(namesOf(item));
  return (
    <Section name="Play" side={`${items.length} outlines`}>
      <Button className="w-full" disabled={!items.length} onClick={() => set({ playing: 0 })}>
        <Play size={14} aria-hidden /> Play them in order
      </Button>
      {open.length > 0 && (
        <ul aria-label="Open lines" className="mt-2 space-y-1">
          {open.map((item) => (
            <li key={item.id} className="flex items-center justify-between gap-2">
              <button type="button" className="truncate text-left underline" onClick={() => show(item)}>
                {item.name} is open
              </button>
              <Button
                className="h-7! px-2! text-[12.5px]"
                onClick={() => commit({ do: "join", picked: [item.id] })}
              >
                Close it
              </Button>
            </li>
          ))}
        </ul>
      )}
      {crossed.length > 0 && (
        <ul aria-label="Outlines that cross themselves" className="mt-2 space-y-1">
          {crossed.map((item) => (
            <li key={item.id} className="flex items-center justify-between gap-2">
              <button
                type="button"
                className="truncate text-left underline"
                onClick={() => {
                  const [x, y] = item.crossings[0] ?? [0, 0];
                  show(item);
                  focusOn({ x, y, radius: 1 });
                }}
              >
                {item.name} crosses itself
              </button>
              <Button
                className="h-7! px-2! text-[12.5px]"
                onClick={() => commit({ do: "combine", how: "unite", seed: seed(), picked: [item.id] })}
              >
                Untangle it
              </Button>
            </li>
          ))}
        </ul>
      )}
      {!open.length && !crossed.length && items.length > 0 && (
        <p className="text-soft mt-1.5 text-[12.5px]">Every outline is one closed path.</p>
      )}
    </Section>
  );
}
