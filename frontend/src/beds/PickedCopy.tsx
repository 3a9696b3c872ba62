import { Section } from "../bench/stops/parts";
import { NumberField, PLAIN, SwitchField, type Notation } from "../ui/fields";
import { turned } from "./BedView";
import type { Lying, Plan, PlanOut } from "./usePlan";

type Props = {
  laid: PlanOut;
  plan: Plan;
  at: number;
  beds: number;
  notation: Notation;
  onChange: (change: Partial<Lying>) => void;
};

const DEGREE = Math.PI / 180;

/** Where the picked copy lies, in numbers. */
export function PickedCopy({ laid, plan, at, beds, notation, onChange }: Props) {
  const place = plan.places[at];
  if (!place) return null;
  const piece = laid.pieces[place.thing];
  return (
    <Section name={piece?.title ?? "Copy"} side={`copy ${place.copy_number + 1}`}>
      <div className="space-y-1.5">
        {(["x", "y"] as const).map((axis) => (
          <NumberField
            key={axis}
            label={axis === "x" ? "From the left" : "From the front"}
            value={place[axis]}
            notation={notation}
            min={-5000}
            max={5000}
            step={1}
            onCommit={(value) => onChange({ [axis]: value, locked: true })}
          />
        ))}
        <NumberField
          label="Turned"
          value={place.turn / DEGREE}
          notation={{ ...PLAIN, unit: "°" }}
          min={-360}
          max={360}
          step={15}
          onCommit={(degrees) => onChange(turned(place, piece, degrees * DEGREE - place.turn))}
        />
        <label className="grid grid-cols-[1fr_104px] items-center">
          On
          <select
            aria-label="On which bed"
            value={place.bed}
            onChange={(event) => onChange({ bed: Number(event.target.value), locked: true })}
            className="border-hair bg-sheet h-8 rounded-md border px-1.5"
          >
            {Array.from({ length: beds + 1 }, (_, i) => (
              <option key={i} value={i}>
                {i === beds ? "a new bed" : `bed ${i + 1}`}
              </option>
            ))}
          </select>
        </label>
        <SwitchField label="Pinned" checked={place.locked} onChange={(locked) => onChange({ locked })} />
      </div>
    </Section>
  );
}
