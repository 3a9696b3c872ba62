import type { Schemas } from "../../../api/client";
import { Choice, NumberField, PLAIN } from "../../../ui/fields";
import { useUnits } from "../../select";
import { lengths } from "../parts";

type EdgeOptions = Schemas["EdgeOptions-Output"];
const EDGES = [
  { value: "straight", name: "straight" },
  { value: "bevel", name: "bevel" },
  { value: "round", name: "round" },
  { value: "draft", name: "draft" },
] as const;

/** How the edge of what is picked falls off. */
export function EdgeControls({
  edge,
  onChange,
}: {
  edge: EdgeOptions;
  onChange: (edge: EdgeOptions) => void;
}) {
  const units = useUnits();
  const kind = edge.kind;
  return (
    <div className="mb-1.5 space-y-1.5">
      <Choice
        label="Edge"
        value={kind}
        options={EDGES}
        onChange={(next) => onChange({ ...edge, kind: next })}
      />
      {(kind === "bevel" || kind === "round") && (
        <NumberField
          label={kind === "bevel" ? "Bevel" : "Radius"}
          notation={lengths(units)}
          value={edge.size}
          min={0.05}
          max={20}
          step={0.1}
          onCommit={(size) => onChange({ ...edge, size })}
        />
      )}
      {kind === "draft" && (
        <NumberField
          label="Draft"
          notation={{ ...PLAIN, unit: "°" }}
          value={edge.angle}
          min={1}
          max={60}
          step={1}
          onCommit={(angle) => onChange({ ...edge, angle })}
        />
      )}
    </div>
  );
}
