import { PLAIN, SliderField, SwitchField } from "../../../ui/fields";
import { Section } from "../parts";
import { Tones } from "./Tones";
import { found, percent, useTrace } from "./settings";

const SPECK_SLIDER = 400;

/** What counts as ink; the modes ink and strokes share it. */
export function InkTuning({ silhouette }: { silhouette: boolean }) {
  const { flat, kept, now, preview, commit } = useTrace();
  if (!flat) return null;
  return (
    <Section name={silhouette ? "Ink" : "Line"}>
      <Tones tones={flat.tones} level={now.level ?? flat.level ?? 0.5} />
      <SliderField
        label="Level"
        value={now.level ?? flat.level ?? 0.5}
        notation={percent}
        min={0}
        max={1}
        step={0.005}
        onPreview={(level) => preview({ level })}
        onCommit={(level) => commit({ level })}
        onReset={found(kept?.level) ? undefined : () => commit({ level: null })}
        resetName="find it"
      >
        {found(kept?.level) ? "found from the picture" : "how dark counts as ink"}
      </SliderField>
      <SwitchField
        label="The light parts are the shape"
        checked={now.invert ?? false}
        onChange={(invert) => commit({ invert })}
      />
      {silhouette && (
        <SwitchField
          label="Only the outer silhouette"
          checked={now.silhouette ?? false}
          onChange={(on) => commit({ silhouette: on })}
        />
      )}
      <Specks />
    </Section>
  );
}

export function Specks() {
  const { flat, kept, now, preview, commit } = useTrace();
  if (!flat) return null;
  return (
    <SliderField
      label="Specks"
      value={now.speck ?? flat.speck ?? 4}
      notation={{ ...PLAIN, unit: "px²" }}
      min={0}
      max={1e6}
      sliderMax={SPECK_SLIDER}
      step={1}
      onPreview={(speck) => preview({ speck })}
      onCommit={(speck) => commit({ speck })}
      onReset={found(kept?.speck) ? undefined : () => commit({ speck: null })}
      resetName="find it"
    >
      {flat.dropped === 0
        ? "nothing is dropped"
        : `${flat.dropped} ${flat.dropped === 1 ? "speck or pinhole" : "specks and pinholes"} dropped`}
    </SliderField>
  );
}
