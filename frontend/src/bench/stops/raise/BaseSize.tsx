import type { Document, Edit, Flat } from "../../../api/client";
import { Choice, NumberField, SliderField } from "../../../ui/fields";
import { standsAlone } from "../../begun";
import { useProblemAt, useShown, useUnits } from "../../select";
import { useBench } from "../../store";
import { lengths } from "../parts";

export type Base = Document["base"];
export type BaseChange = Omit<Extract<Edit, { do: "set-base" }>, "do">;

const SIZES = [
  { value: "margin", name: "Margin" },
  { value: "typed", name: "Exact size" },
] as const;
/** Whether the base's width and depth do not hang on the art. */
function ownSize(base: Base): boolean {
  return standsAlone({ base } as Document);
}

/** The base with a size of its own, as large as it is now, or with a margin round the art. */
function sizeOf(shape: Base["shape"], typed: boolean, flat: Flat | null): Partial<Base> {
  if (!typed) return { sides: null, diameter: null };
  const [, , width = 60, depth = 40] = flat?.base_box ?? [];
  const round = (mm: number) => Math.max(1, Math.round(mm * 10) / 10);
  return shape === "circle" ? { diameter: round(width) } : { sides: [round(width), round(depth)] };
}

/** How large the base is: by a margin round the art, or by numbers of its own. */
export function BaseSize({ base, set }: { base: Base; set: (change: BaseChange) => Edit }) {
  const flat = useShown();
  const notation = lengths(useUnits());
  const narrow = useProblemAt("base.margin");
  const { previewEdit, commit } = useBench.getState();
  return (
    <>
      {base.shape !== "outline" && base.shape !== "block" && (
        <Choice
          label="Size of the base"
          value={ownSize(base) ? "typed" : "margin"}
          options={SIZES}
          onChange={(how) => commit(set(sizeOf(base.shape, how === "typed", flat)))}
        />
      )}
      {!ownSize(base) && (
        <SliderField
          label="Margin"
          problem={narrow}
          value={base.margin}
          notation={notation}
          min={-500}
          max={500}
          sliderMin={0}
          sliderMax={20}
          step={0.5}
          onPreview={(margin) => previewEdit(set({ margin }))}
          onCommit={(margin) => commit(set({ margin }))}
        />
      )}
      {base.shape === "circle" && base.diameter !== null && (
        <NumberField
          label="Diameter of the base"
          value={base.diameter}
          notation={notation}
          min={0.5}
          max={2000}
          step={1}
          onCommit={(diameter) => commit(set({ diameter }))}
        />
      )}
      {(base.shape === "block" || (base.shape === "rectangle" && base.sides)) && (
        <div className="space-y-1.5">
          {(["Width of the block", "Depth of the block"] as const).map((label, i) => (
            <NumberField
              key={label}
              label={base.shape === "block" ? label : label.replace("block", "base")}
              value={(base.shape === "block" ? base.block : (base.sides ?? base.block))[i === 0 ? 0 : 1]}
              notation={notation}
              min={0.5}
              max={2000}
              step={1}
              onCommit={(mm) => {
                const name = base.shape === "block" ? "block" : "sides";
                const [w, d] = base.shape === "block" ? base.block : (base.sides ?? base.block);
                commit(set({ [name]: i === 0 ? [mm, d] : [w, mm] }));
              }}
            />
          ))}
        </div>
      )}
    </>
  );
}
