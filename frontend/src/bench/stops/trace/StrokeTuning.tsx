import { SliderField, SwitchField } from "../../../ui/fields";
import { useUnits } from "../../select";
import { lengths, Section } from "../parts";
import { useTrace } from "./settings";

const WIDEST = 100;
const SLIDER_TOP = 6;

/** Whether every stroke keeps the width that the pen gave it. */
export function StrokeTuning() {
  const { underlay, trace, kept, now, preview, commit } = useTrace();
  const units = useUnits();
  if (!underlay || !trace) return null;
  const one = !(kept?.width === null || kept?.width === undefined);
  // The picture is traced in pixels; on the bench a width is a length.
  const px = (mm: number) => mm / underlay.mm_per_px;
  const width = now.width ? now.width * underlay.mm_per_px : (trace.stroke_width ?? 1);
  return (
    <Section name="Strokes">
      <SwitchField
        label="One width for all"
        checked={one}
        onChange={(on) => commit({ width: on ? px(trace.stroke_width ?? 1) : null })}
      />
      {one && (
        <SliderField
          label="Width"
          value={width}
          notation={lengths(units)}
          min={0.05}
          max={WIDEST}
          sliderMax={SLIDER_TOP}
          step={0.05}
          onPreview={(mm) => preview({ width: px(mm) })}
          onCommit={(mm) => commit({ width: px(mm) })}
        />
      )}
    </Section>
  );
}
