import { Choice, SliderField } from "../../ui/fields";
import { trimmed } from "../../ui/length";
import { isCorner, nodesOf } from "../flat/nodes";
import { Figures, Section } from "./parts";
import { ColourTuning } from "./trace/ColourTuning";
import { InkTuning } from "./trace/InkTuning";
import { CALM, KEEN, percent, useTrace } from "./trace/settings";
import { StrokeTuning } from "./trace/StrokeTuning";

const MODES = [
  { value: "ink", name: "Ink" },
  { value: "colours", name: "Colours" },
  { value: "strokes", name: "Strokes" },
] as const;
const MEANING = {
  ink: "Dark shapes on light become outlines.",
  colours: "Every flat colour becomes outlines that share their edges.",
  strokes: "The lines of a drawing, with their width.",
} as const;

export function TraceStop() {
  const { document, flat, kept, now, preview, commit } = useTrace();
  if (!document || !flat) return null;
  const mode = kept?.mode ?? "ink";
  const smooth = now.smooth ?? CALM;
  const keen = now.keen ?? KEEN;
  const corners = flat.regions.reduce((sum, r) => sum + nodesOf(r.path).filter(isCorner).length, 0);
  return (
    <>
      <Section name="Take as">
        <Choice label="Take as" value={mode} options={MODES} onChange={(next) => commit({ mode: next })} />
        <p className="text-soft pt-1 text-xs">{MEANING[mode]}</p>
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
      </Section>
      <Figures
        rows={[
          ["Regions", String(flat.regions.length)],
          ["Nodes", String(flat.nodes)],
          ["Corners", String(corners)],
          ["One pixel is", `${trimmed(flat.mm_per_px, 3)} mm`],
        ]}
      />
    </>
  );
}
