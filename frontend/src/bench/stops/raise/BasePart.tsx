import type { Edit } from "../../../api/client";
import { Choice, NumberField, SliderField, SwitchField } from "../../../ui/fields";
import { FilamentPicker } from "../../Filaments";
import { useOverlaid } from "../../overlaid";
import { useDocument, useProblemAt, useShown, useUnits } from "../../select";
import { useBench } from "../../store";
import { hasBaseThickness, supportName } from "../../support";
import { lengths, Section } from "../parts";
import { BaseSize, type Base, type BaseChange } from "./BaseSize";

const BASES = [
  { value: "outline", name: "Outline" },
  { value: "rectangle", name: "Box" },
  { value: "circle", name: "Circle" },
  { value: "block", name: "Block" },
  { value: "none", name: "None" },
] as const;
const FOLLOWS = [
  { value: "art", name: "Centred on the art" },
  { value: "fixed", name: "Fixed" },
] as const;

/** Whether the base goes where the art's middle is, or stays in a place of its own. */
function BasePlace({ at, set }: { at: Base["at"]; set: (change: BaseChange) => Edit }) {
  const flat = useShown();
  const units = useUnits();
  const commit = useBench((s) => s.commit);
  const [x, y, w, d] = flat?.base_box ?? [0, 0, 0, 0];
  const field = (axis: 0 | 1) => (
    <NumberField
      label={axis === 0 ? "Middle, across" : "Middle, down"}
      notation={lengths(units)}
      value={at?.[axis] ?? 0}
      min={-5000}
      max={5000}
      step={1}
      onCommit={(mm) => at && commit(set({ at: axis === 0 ? [mm, at[1]] : [at[0], mm] }))}
    />
  );
  return (
    <div className="my-1.5 space-y-1.5">
      <Choice
        label="Place of the base"
        value={at ? "fixed" : "art"}
        options={FOLLOWS}
        onChange={(how) => commit(set({ at: how === "art" ? null : [x + w / 2, y + d / 2] }))}
      />
      {at && field(0)}
      {at && field(1)}
    </div>
  );
}

/** What the art stands on. */
export function BasePart() {
  const document = useDocument();
  const units = useUnits();
  const { previewEdit, commit } = useBench.getState();
  const given = useOverlaid("set-base");
  const thin = useProblemAt("base.thickness");
  if (!document) return null;
  const base = { ...document.base, ...given } as Base;
  const set = (change: BaseChange): Edit => ({ do: "set-base", ...change });
  const notation = lengths(units);
  const form = document.form;
  const support = supportName(form);
  if (!support)
    return (
      <Section name="Filament">
        <FilamentPicker
          label="Filament of the cutter"
          value={base.filament}
          onChange={(filament) => commit(set({ filament }))}
        />
      </Section>
    );
  return (
    <Section name={support}>
      <Choice
        label="Shape of the base"
        value={base.shape}
        options={form === "relief" ? BASES : BASES.slice(0, 3)}
        onChange={(shape) => commit(set({ shape }))}
      />
      {base.shape !== "none" && (
        <>
          {hasBaseThickness(form) && (
            <SliderField
              label="Thickness"
              problem={thin}
              value={base.thickness}
              notation={notation}
              min={0.2}
              max={500}
              sliderMax={10}
              step={0.1}
              onPreview={(thickness) => previewEdit(set({ thickness }))}
              onCommit={(thickness) => commit(set({ thickness }))}
            />
          )}
          <BaseSize base={base} set={set} />
          {base.shape !== "outline" && <BasePlace at={base.at} set={set} />}
          {base.shape === "outline" && document.form === "relief" && (
            <SwitchField
              label="Keep holes open"
              checked={base.keep_holes}
              onChange={(keep_holes) => commit(set({ keep_holes }))}
            />
          )}
          {(base.shape === "rectangle" || base.shape === "block") && (
            <NumberField
              label="Corner radius"
              value={base.corner_radius}
              notation={notation}
              min={0}
              max={500}
              step={0.5}
              onCommit={(corner_radius) => commit(set({ corner_radius }))}
            />
          )}
          <FilamentPicker
            label="Filament of the base"
            value={base.filament}
            onChange={(filament) => commit(set({ filament }))}
          />
        </>
      )}
    </Section>
  );
}
