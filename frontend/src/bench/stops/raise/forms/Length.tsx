import { NumberField, SliderField } from "../../../../ui/fields";
import { useProblemAt, useUnits } from "../../../select";
import { lengths } from "../../parts";

/** A length of a form, with what is wrong with it; a slider where what it does is seen while it is dragged. */
export function Length({
  label,
  value,
  max,
  min = 0,
  top,
  step = 0.1,
  field,
  onChange,
  onPreview,
}: {
  label: string;
  /** What the number is called where the form is worked out. */
  field?: string;
  value: number;
  max: number;
  min?: number;
  top?: number;
  step?: number;
  onChange: (mm: number) => void;
  onPreview?: (mm: number) => void;
}) {
  const units = useUnits();
  const problem = useProblemAt(field ?? "");
  const shared = { label, value, min, max, step, problem, notation: lengths(units), onCommit: onChange };
  return onPreview ? (
    <SliderField {...shared} sliderMax={top ?? max} onPreview={onPreview} />
  ) : (
    <NumberField {...shared} />
  );
}
