import type { Schemas } from "../../../api/client";
import { Choice, PLAIN, SliderField, SwitchField } from "../../../ui/fields";
import { Section } from "../parts";
import { Tones } from "./Tones";
import { found, percent, useTrace } from "./settings";

const SPECK_SLIDER = 400;

/** A level is kept as darkness; it is shown so that more of it is more ink, which is what is light when inverted. */
const turned = (level: number, inverted: boolean): number => (inverted ? level : 1 - level);

/** What counts as ink; the modes ink and strokes share it. */
export function InkTuning({ silhouette }: { silhouette: boolean }) {
  const { trace, kept, now, preview, commit } = useTrace();
  if (!trace) return null;
  const inverted = now.invert ?? false;
  const shown = turned(now.level ?? trace.level ?? 0.5, inverted);
  return (
    <Section name={silhouette ? "Ink" : "Line"}>
      <Tones tones={inverted ? trace.tones : [...trace.tones].reverse()} level={shown} />
      <SliderField
        label="Level"
        value={shown}
        notation={percent}
        min={0}
        max={1}
        step={0.005}
        onPreview={(next) => preview({ level: turned(next, inverted) })}
        onCommit={(next) => commit({ level: turned(next, inverted) })}
        onReset={found(kept?.level) ? undefined : () => commit({ level: null })}
        resetName="auto"
      >
        {found(now.level) ? "from the picture" : "further right, more counts as ink"}
      </SliderField>
      <SwitchField
        label="Trace light areas"
        checked={now.invert ?? false}
        onChange={(invert) => commit({ invert })}
      />
      {trace.on_dark && !now.invert && (
        <p className="border-remark bg-remark-wash mb-2 rounded-r-md border-l-4 px-2.5 py-1.5 text-[13px]">
          The picture is dark all round, so its background is traced. Switch this on for light shapes.
        </p>
      )}
      {silhouette && (
        <SwitchField
          label="Outer silhouette only"
          checked={now.silhouette ?? false}
          onChange={(on) => commit({ silhouette: on })}
        />
      )}
      <p className="pt-1 pb-0.5">Uneven light</p>
      <Choice
        label="Uneven light"
        value={now.local === true ? "follow" : now.local === false ? "one" : "find"}
        options={LIGHT}
        onChange={(light) => commit({ local: light === "find" ? null : light === "follow" })}
      />
      <Specks pinholes={silhouette} />
    </Section>
  );
}

const LIGHT = [
  { value: "find", name: "Auto" },
  { value: "follow", name: "Even out" },
  { value: "one", name: "Ignore" },
] as const;

/** The sizes of what is left out, with counts. */
export function Specks({ pinholes = false }: { pinholes?: boolean }) {
  const { trace, kept, now, preview, commit } = useTrace();
  if (!trace) return null;
  const speck = now.speck ?? trace.speck;
  return (
    <>
      <SliderField
        label="Specks"
        value={speck}
        notation={{ ...PLAIN, unit: "px²" }}
        min={0}
        max={1e6}
        sliderMax={SPECK_SLIDER}
        step={1}
        onPreview={(next) => preview({ speck: next })}
        onCommit={(next) => commit({ speck: next })}
        onReset={found(kept?.speck) ? undefined : () => commit({ speck: null })}
        resetName="auto"
      >
        {counted(trace, trace.dropped, "speck", "dropped")}
      </SliderField>
      {pinholes && (
        <SliderField
          label="Pinholes"
          value={now.pinhole ?? trace.pinhole ?? speck}
          notation={{ ...PLAIN, unit: "px²" }}
          min={0}
          max={1e6}
          sliderMax={SPECK_SLIDER}
          step={1}
          onPreview={(next) => preview({ pinhole: next })}
          onCommit={(next) => commit({ pinhole: next })}
          onReset={found(kept?.pinhole) ? undefined : () => commit({ pinhole: null })}
          resetName="as specks"
        >
          {counted(trace, trace.filled, "pinhole", "filled")}
        </SliderField>
      )}
    </>
  );
}

function counted(trace: Schemas["FlatTrace"], count: number, what: string, how: string): string {
  if (count === 0) return `no ${what}s ${how}`;
  const shown = (trace.lost_path.match(/M/g) ?? []).length;
  const struck = shown < trace.dropped + trace.filled ? "the largest struck out" : "struck out";
  return `${count} ${what}${count === 1 ? "" : "s"} ${how}, ${struck} in the view`;
}
