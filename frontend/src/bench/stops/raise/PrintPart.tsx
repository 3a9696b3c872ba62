import { NumberField } from "../../../ui/fields";
import { useDocument, useUnits } from "../../select";
import { useBench } from "../../store";
import { lengths, Fold } from "../parts";
import { WeakSpots } from "./WeakSpots";

/** The print's layer and nozzle, and the places that such a print would not forgive. */
export function PrintPart() {
  const document = useDocument();
  const units = useUnits();
  const { commit } = useBench.getState();
  if (!document) return null;
  return (
    <>
      <Fold name="Print">
        <div className="space-y-1.5">
          <NumberField
            label="Layer"
            value={document.layer}
            notation={lengths(units)}
            min={0.02}
            max={2}
            step={0.04}
            onCommit={(layer) => commit({ do: "set-form", layer })}
          />
          <NumberField
            label="Nozzle"
            value={document.nozzle}
            notation={lengths(units)}
            min={0.1}
            max={2}
            step={0.1}
            onCommit={(nozzle) => commit({ do: "set-form", nozzle })}
          />
        </div>
      </Fold>
      <WeakSpots />
    </>
  );
}
