import type { Edit } from "../../api/client";
import { PLAIN, SliderField, SwitchField } from "../../ui/fields";
import { trimmed } from "../../ui/length";
import { useDocument, useShown } from "../select";
import { useBench } from "../store";
import { Figures, Section } from "./parts";

type Settings = Omit<Extract<Edit, { do: "set-trace" }>, "do">;

const CALM = 0.5;
const SPECK_SLIDER = 400;

const percent = {
  parse: (text: string) => {
    const value = PLAIN.parse(text.replace("%", ""));
    return value === null ? null : value / 100;
  },
  format: (value: number) => trimmed(value * 100, 1),
  unit: "%",
};

export function TraceStop() {
  const document = useDocument();
  const flat = useShown();
  const draft = useBench((s) => s.draft);
  const { previewEdit, commit } = useBench.getState();
  const trace = document?.trace;
  if (!document || !flat) return null;
  const set = (change: Settings): Edit => ({ do: "set-trace", ...change });
  const drafted: Settings = draft?.do === "set-trace" ? draft : {};
  const level = drafted.level ?? trace?.level ?? flat.level ?? 0.5;
  const speck = drafted.speck ?? trace?.speck ?? flat.speck ?? 4;
  const smooth = drafted.smooth ?? trace?.smooth ?? CALM;
  const found = (value: unknown) => value === null || value === undefined;
  return (
    <>
      <Section name="Ink">
        <SliderField
          label="Level"
          value={level}
          notation={percent}
          min={0}
          max={1}
          step={0.005}
          onPreview={(value) => previewEdit(set({ level: value }))}
          onCommit={(value) => commit(set({ level: value }))}
          onReset={found(trace?.level) ? undefined : () => commit(set({ level: null }))}
          resetName="find it"
        >
          {found(trace?.level) ? "found from the picture" : "how dark counts as ink"}
        </SliderField>
        <SwitchField
          label="The light parts are the shape"
          checked={drafted.invert ?? trace?.invert ?? false}
          onChange={(invert) => commit(set({ invert }))}
        />
        <SliderField
          label="Specks"
          value={speck}
          notation={{ ...PLAIN, unit: "px²" }}
          min={0}
          max={1e6}
          sliderMax={SPECK_SLIDER}
          step={1}
          onPreview={(value) => previewEdit(set({ speck: value }))}
          onCommit={(value) => commit(set({ speck: value }))}
          onReset={found(trace?.speck) ? undefined : () => commit(set({ speck: null }))}
          resetName="find it"
        >
          {flat.dropped === 0
            ? "nothing is dropped"
            : `${flat.dropped} ${flat.dropped === 1 ? "speck or pinhole" : "specks and pinholes"} dropped`}
        </SliderField>
      </Section>
      <Section name="Curves">
        <SliderField
          label="Calmness"
          value={smooth}
          notation={percent}
          min={0}
          max={1}
          step={0.05}
          onPreview={(value) => previewEdit(set({ smooth: value }))}
          onCommit={(value) => commit(set({ smooth: value }))}
          onReset={trace?.smooth === CALM ? undefined : () => commit(set({ smooth: CALM }))}
        >
          {smooth < 0.15
            ? "follows every pixel"
            : smooth > 0.85
              ? "the calmest curve"
              : "calm, and true to the edge"}
        </SliderField>
      </Section>
      <Figures
        rows={[
          ["Regions", String(flat.regions.length)],
          ["Nodes", String(flat.nodes)],
          ["One pixel is", `${trimmed(flat.mm_per_px, 3)} mm`],
        ]}
      />
    </>
  );
}
