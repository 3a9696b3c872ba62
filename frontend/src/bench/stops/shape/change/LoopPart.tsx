import { Button } from "../../../../ui/Button";
import { Choice, NumberField } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { seed, type Item } from "../../../shape/objects";
import { useShape } from "../../../shape/state";
import { useItems } from "../../../shape/useSheet";
import { lengths, Fold } from "../../parts";
import { Tools } from "../Tools";
import { say } from "./change";

export function Loop({ picked }: { picked: readonly Item[] }) {
  const loop = useShape((s) => s.loop);
  const items = useItems();
  const held = largestOf(picked) ?? largestOf(items);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Fold name="Hanging hole">
      <div className="space-y-1.5">
        <Choice
          label="Loop or hole"
          value={loop.kind}
          options={[
            { value: "loop", name: "key loop" },
            { value: "hole", name: "hole" },
          ]}
          onChange={(kind) => set({ loop: { ...loop, kind } })}
        />
        <NumberField
          label="Hole"
          notation={lengths(units)}
          value={loop.inner}
          min={0.5}
          max={100}
          step={0.5}
          onCommit={(inner) => set({ loop: { ...loop, inner } })}
        />
        <NumberField
          label="Wall"
          notation={lengths(units)}
          value={loop.wall}
          min={0.4}
          max={50}
          step={0.25}
          onCommit={(wall) => set({ loop: { ...loop, wall } })}
        />
        <Button
          className="w-full"
          disabled={!held}
          title="At the upper edge, where the piece hangs level."
          onClick={() => held && say({ do: "loop", seed: seed(), id: held.id, ...loop })}
        >
          Where it hangs level
        </Button>
        <Tools tools={[{ tool: "loop", name: "By a click" }]} />
      </div>
    </Fold>
  );
}

/** The closed thing that covers the most, holes aside. */
function largestOf(items: readonly Item[]): Item | undefined {
  return items
    .filter((i) => i.area > 0 && !i.thing?.hole)
    .reduce<Item | undefined>((best, i) => (best && best.area >= i.area ? best : i), undefined);
}
