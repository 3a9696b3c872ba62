import { useState } from "react";
import { Button } from "../../../../ui/Button";
import { Choice, NumberField } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { idsOf, seed, type Item } from "../../../shape/objects";
import { useBench } from "../../../store";
import { lengths, Fold } from "../../parts";
import { say } from "./change";

export function Lines({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const [width, setWidth] = useState(1.6);
  const [ends, setEnds] = useState<"round" | "square" | "flat">("round");
  const open = picked.filter((i) => i.open);
  return (
    <Fold name="Line width" open={open.length > 0} side={open.length ? `${open.length} open` : undefined}>
      <div className="space-y-1.5">
        <NumberField
          label="Width"
          notation={lengths(units)}
          value={width}
          min={0.1}
          max={100}
          step={0.1}
          onCommit={setWidth}
        />
        <Choice
          label="Ends and corners"
          value={ends}
          options={[
            { value: "round", name: "round" },
            { value: "square", name: "square" },
            { value: "flat", name: "flat" },
          ]}
          onChange={setEnds}
        />
        <Button
          className="w-full"
          disabled={!picked.length}
          onClick={() => {
            const name = seed();
            say({
              do: "widen",
              seed: name,
              picked: idsOf(picked),
              width,
              ends,
              corners: ends === "round" ? "round" : "mitre",
            });
            useBench.getState().pickAll([name]);
          }}
        >
          Give the line its width
        </Button>
        <Button
          className="w-full"
          disabled={!open.length || open.length > 2}
          onClick={() => say({ do: "join", picked: idsOf(open) })}
        >
          {open.length === 2 ? "Join the two lines" : "Close the line"}
        </Button>
      </div>
    </Fold>
  );
}
