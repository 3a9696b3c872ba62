import { NumberField } from "../../../ui/fields";
import { useDocument, useUnits } from "../../select";
import { useBench } from "../../store";
import { PrinterChoice } from "../../prove/Printers";
import { lengths, Fold } from "../parts";
import { Troubles } from "../Troubles";

/** The print's layer and printer, and what would not print so. */
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
          <PrinterChoice />
        </div>
      </Fold>
      <Troubles />
    </>
  );
}
