import { useState } from "react";
import type { Flat } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { NumberField } from "../../../../ui/fields";
import { standsAlone } from "../../../begun";
import { useDocument, useUnits } from "../../../select";
import { boxOf, idsOf, seed, type Item } from "../../../shape/objects";
import { useBench } from "../../../store";
import { lengths, Section } from "../../parts";

/** What is picked, centred on or fitted into the largest thing that is picked, or into the base. */
export function OnTheBase({ picked, flat }: { picked: readonly Item[]; flat: Flat }) {
  const units = useUnits();
  const [margin, setMargin] = useState(2);
  const document = useDocument();
  const { commit } = useBench.getState();
  const box = boxOf(picked);
  if (!box) return null;
  const [onto, rest] = holderOf(picked);
  const target = onto?.id ?? BASE;
  const name = onto ? "the largest" : "the base";
  // A base that follows the art has no place of its own to bring the art to.
  const base = document && standsAlone(document) ? flat.base_box : null;
  const [x, y, width, height] = onto?.box ?? base ?? [];
  const none = x === undefined || y === undefined || width === undefined || height === undefined;
  const inner = boxOf(rest);
  const off: [number, number] | null =
    none || !inner
      ? null
      : [inner.x + inner.width / 2 - x - width / 2, inner.y + inner.height / 2 - y - height / 2];
  const centre = (by: [number | null, number | null]) =>
    commit({ do: "centre", seed: seed(), picked: idsOf(rest), onto: target, by });
  const away = (label: string, axis: 0 | 1) =>
    off && (
      <NumberField
        label={label}
        notation={lengths(units)}
        value={Number(off[axis].toFixed(4))}
        min={-2000}
        max={2000}
        step={units === "mm" ? 1 : 25.4 / 16}
        onCommit={(mm) => centre(axis === 0 ? [mm, null] : [null, mm])}
      />
    );
  return (
    <Section name={onto ? "In the largest" : "On the base"} side={onto ? "of what is picked" : undefined}>
      <div className="space-y-1.5">
        <Button className="w-full" disabled={none} onClick={() => centre([0, 0])}>
          Centre on {name}
        </Button>
        {away("Right of middle", 0)}
        {away("Below middle", 1)}
        <NumberField
          label="Margin inside"
          notation={lengths(units)}
          value={margin}
          min={0}
          max={500}
          step={0.5}
          onCommit={setMargin}
        />
        <Button
          className="w-full"
          disabled={none}
          title="As large as it fits with this margin; what holds it stays as it is."
          onClick={() =>
            commit({ do: "fit-inside", seed: seed(), picked: idsOf(rest), into: target, margin })
          }
        >
          Fit into {name}
        </Button>
        {none && (
          <p className="text-soft text-xs">
            The base follows the art. Give it a size of its own in Raise first: a diameter, or a width and a
            depth.
          </p>
        )}
      </div>
    </Section>
  );
}

/** The base, by this name, holds what is picked where no other thing does. */
const BASE = "base";

/** Of several picked things the largest holds the others. */
function holderOf(picked: readonly Item[]): [Item | undefined, readonly Item[]] {
  if (picked.length < 2) return [undefined, picked];
  const largest = [...picked].sort((a, b) => b.box[2] * b.box[3] - a.box[2] * a.box[3])[0];
  return [largest, picked.filter((i) => i !== largest)];
}
