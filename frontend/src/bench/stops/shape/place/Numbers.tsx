import { useState } from "react";
import { NumberField, PLAIN, SwitchField } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { transform } from "../../../shape/changes";
import { boxOf, type Item } from "../../../shape/objects";
import { useShape } from "../../../shape/state";
import { lengths, Section } from "../../parts";
import { Tools } from "../Tools";

export function Numbers({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const nudge = useShape((s) => s.nudge);
  const { set } = useShape.getState();
  const [kept, setKept] = useState(true);
  const [turn, setTurn] = useState(0);
  const box = boxOf(picked);
  const step = units === "mm" ? 1 : 25.4 / 16;
  if (!box) return <p className="text-soft mb-5">Pick something to place and size it by numbers.</p>;
  const field = (
    label: string,
    value: number,
    change: (mm: number) => Parameters<typeof transform>[1],
    min: number,
  ) => (
    <NumberField
      label={label}
      notation={lengths(units)}
      value={value}
      min={min}
      max={2000}
      step={step}
      onCommit={(mm) => transform(picked, change(mm))}
    />
  );
  return (
    <Section name="Place and size">
      <div className="space-y-1.5">
        {field("x", box.x, (x) => ({ x }), -2000)}
        {field("y", box.y, (y) => ({ y }), -2000)}
        {field("Its width", box.width, (width) => ({ width, free: !kept }), 0.05)}
        {field("Its height", box.height, (height) => ({ height, free: !kept }), 0.05)}
      </div>
      <SwitchField label="Keep proportions" checked={kept} onChange={setKept} />
      <div className="space-y-1.5">
        <NumberField
          label="Turn by"
          notation={{ ...PLAIN, unit: "°" }}
          value={turn}
          min={-360}
          max={360}
          step={5}
          onCommit={(degrees) => {
            setTurn(degrees);
            transform(picked, { turn: degrees });
          }}
        />
        <Tools tools={[{ tool: "level-two", name: "Level by two clicks" }]} />
        <NumberField
          label="Arrows nudge by"
          notation={lengths(units)}
          value={nudge}
          min={0.001}
          max={100}
          step={0.1}
          onCommit={(mm) => set({ nudge: mm })}
        />
      </div>
    </Section>
  );
}
