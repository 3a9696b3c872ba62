import { NumberField, SwitchField } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { useShape, type SnapTo } from "../../../shape/state";
import { lengths, Fold } from "../../parts";

const SNAPS: readonly [SnapTo, string][] = [
  ["nodes", "Nodes"],
  ["edges", "Edges"],
  ["centres", "Centres"],
  ["grid", "Grid"],
];

export function Snapping() {
  const snap = useShape((s) => s.snap);
  const grid = useShape((s) => s.grid);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Fold name="Snap to">
      {SNAPS.map(([name, label]) => (
        <SwitchField
          key={name}
          label={label}
          checked={snap[name]}
          onChange={(on) => set({ snap: { ...snap, [name]: on } })}
        />
      ))}
      {snap.grid && (
        <NumberField
          label="Grid step"
          notation={lengths(units)}
          value={grid}
          min={0.05}
          max={100}
          step={0.5}
          onCommit={(mm) => set({ grid: mm })}
        />
      )}
    </Fold>
  );
}
