import { useState } from "react";

import { Button } from "../../ui/Button";
import { Choice, SliderField } from "../../ui/fields";
import { formatLength, trimmed, unitName } from "../../ui/length";
import { useShown, useUnderlay, useUnits } from "../select";
import { useBench } from "../store";
import { focusOn } from "../signals";
import { useLookOver, type LookOver } from "../useLookOver";
import { Figures, Section } from "./parts";
import { PictureChoice } from "./PictureChoice";
import { Scraps } from "./shape/Scraps";
import { Areas } from "./trace/Areas";
import { Attempts } from "./trace/Attempts";
import { ColourTuning } from "./trace/ColourTuning";
import { figuresOf } from "./trace/figures";
import { InkTuning } from "./trace/InkTuning";
import { Pen } from "./trace/Pen";
import { RoughSpots } from "./trace/RoughSpots";
import { CALM, KEEN, percent, useTrace } from "./trace/settings";
import { StrokeTuning } from "./trace/StrokeTuning";
import { Truth } from "./trace/Truth";
import { Ways } from "./trace/Ways";

const PARTS = [
  { value: "settings", name: "Settings" },
  { value: "look", name: "Look over" },
  { value: "pen", name: "Pen" },
] as const;
type Part = (typeof PARTS)[number]["value"];

export function TraceStop() {
  const [part, setPart] = useState<Part>("settings");
  const spots = useLookOver()?.spots.length ?? 0;
  return (
    <>
      <div className="mb-4">
        <Choice
          label="Part of tracing"
          value={part}
          options={PARTS.map((p) =>
            p.value === "look" && spots ? { ...p, name: `${p.name} (${spots})` } : p,
          )}
          onChange={setPart}
        />
      </div>
      <PictureChoice />
      {part === "settings" ? <TraceSettings /> : part === "look" ? <LookOverPart /> : <Pen />}
    </>
  );
}

function LookOverPart() {
  return (
    <>
      <Outlines />
      <RoughSpots />
      <Attempts />
    </>
  );
}

function TraceSettings() {
  const { picture, flat, kept, now, preview, commit } = useTrace();
  if (!picture || !flat) return null;
  if (!picture.tracing)
    return (
      <p className="text-soft">
        Only what the pen draws counts. Switch that off under Pen to trace the picture too.
      </p>
    );
  const mode = kept?.mode ?? "ink";
  const smooth = now.smooth ?? CALM;
  const keen = now.keen ?? KEEN;
  return (
    <>
      <Section name="Trace as">
        <Ways mode={mode} onChange={(next) => commit({ mode: next })} />
      </Section>
      {mode === "colours" ? <ColourTuning /> : <InkTuning silhouette={mode === "ink"} />}
      {mode === "strokes" && <StrokeTuning />}
      <Section name="Curves">
        <SliderField
          label="Calmness"
          value={smooth}
          notation={percent}
          min={0}
          max={1}
          step={0.05}
          onPreview={(value) => preview({ smooth: value })}
          onCommit={(value) => commit({ smooth: value })}
          onReset={kept?.smooth === CALM ? undefined : () => commit({ smooth: CALM })}
        >
          {smooth < 0.15
            ? "follows every pixel"
            : smooth > 0.85
              ? "the calmest curve"
              : "calm, and true to the edge"}
        </SliderField>
        <SliderField
          label="Corners"
          value={keen}
          notation={percent}
          min={0}
          max={1}
          step={0.05}
          onPreview={(value) => preview({ keen: value })}
          onCommit={(value) => commit({ keen: value })}
          onReset={kept?.keen === KEEN ? undefined : () => commit({ keen: KEEN })}
        >
          {keen < 0.35 ? "rounded off" : keen > 0.65 ? "every tight bend is one" : "where the shape has them"}
        </SliderField>
        <Truth />
      </Section>
      <Areas />
      <Scraps />
    </>
  );
}

function Outlines() {
  const flat = useShown();
  const underlay = useUnderlay();
  const found = useLookOver();
  const units = useUnits();
  const commit = useBench((s) => s.commit);
  if (!flat) return null;
  const { outlines, nodes, corners } = figuresOf(flat);
  const place = (narrow: LookOver["gap"]) =>
    narrow ? (
      <button
        type="button"
        className="text-act font-semibold hover:underline"
        onClick={() => focusOn.send({ x: narrow.at[0], y: narrow.at[1], radius: narrow.width })}
      >
        {formatLength(narrow.width, units)} {unitName(units)}
      </button>
    ) : (
      "none"
    );
  return (
    <Section name="Outlines">
      <Figures
        rows={[
          ["Outlines", String(outlines)],
          ["Nodes", String(nodes)],
          ["Corners", String(corners)],
          ["Smallest gap", found ? place(found.gap) : "…"],
          ["Smallest neck", found ? place(found.neck) : "…"],
          ["One pixel is", underlay ? `${trimmed(underlay.mm_per_px, 3)} mm` : "…"],
        ]}
      />
      {flat.reduced > 1 && (
        <div className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]">
          <p className="mb-1.5">
            The picture is large, so it is traced at 1/{flat.reduced} of its resolution. That is fine for most
            work.
          </p>
          <Button
            className="w-full"
            onClick={() => commit({ do: "set-source", picture: underlay?.id ?? null, whole: true })}
          >
            Trace every pixel
          </Button>
        </div>
      )}
    </Section>
  );
}
