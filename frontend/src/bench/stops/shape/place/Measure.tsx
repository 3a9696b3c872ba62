import { Ruler } from "lucide-react";
import { Button } from "../../../../ui/Button";
import { formatLength, unitName } from "../../../../ui/length";
import { useUnits } from "../../../select";
import { figuresOf } from "../../../shape/marks";
import { useShape } from "../../../shape/state";
import { useLookOver } from "../../../useLookOver";
import { Figures, Fold } from "../../parts";
import { Tools } from "../Tools";

export function Measure() {
  const measured = useShape((s) => s.measured);
  const { set } = useShape.getState();
  const units = useUnits();
  const over = useLookOver();
  const mm = (value: number) => `${formatLength(value, units, 3)} ${unitName(units)}`;
  const found = measured && figuresOf(measured[0], measured[1]);
  return (
    <Fold name="Measure">
      <div className="grid grid-cols-2 gap-1.5">
        <Tools tools={[{ tool: "measure", name: "Measure", sign: <Ruler size={14} aria-hidden /> }]} />
        <Button className="px-1! text-[12.5px]" disabled={!measured} onClick={() => set({ measured: null })}>
          Clear
        </Button>
      </div>
      <div className="mt-1.5">
        <Figures
          rows={[
            ...(found
              ? ([
                  ["Distance", mm(found.distance)],
                  ["Angle", `${found.angle.toFixed(2)}°`],
                  ["Slope", found.slope],
                ] as const)
              : []),
            ["Thinnest neck", over?.neck ? mm(over.neck.width) : "…"],
            ["Narrowest gap", over?.gap ? mm(over.gap.width) : "…"],
          ]}
        />
      </div>
    </Fold>
  );
}
