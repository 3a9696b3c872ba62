import { useState } from "react";

import { Button } from "../../../ui/Button";
import { SliderField } from "../../../ui/fields";
import { MM_PER_INCH, trimmed } from "../../../ui/length";
import { useUnits } from "../../select";
import { idsOf, likeThis, namesOf, type Item } from "../../shape/objects";
import { useItems, usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { Fold } from "../parts";

/** Picks more of the same, or all that is small, and drops it at once; what stays keeps its size and place. */
export function Scraps() {
  const items = useItems();
  const picked = usePicked();
  const units = useUnits();
  const { pickAll, commit } = useBench.getState();
  const [most, setMost] = useState(0);
  const areas = items.filter((i) => i.area > 0);
  const largest = Math.max(1, ...areas.map((i) => i.area));
  const small = areas.filter((i) => i.area < most);
  const pick = (chosen: readonly Item[]) => pickAll(chosen.flatMap(namesOf));
  const one = picked[0];
  const square = units === "mm" ? 1 : MM_PER_INCH ** 2;
  return (
    <Fold name="Pick more, drop scraps" side={`${picked.length} of ${items.length}`}>
      <div className="grid grid-cols-2 gap-1.5">
        <Button
          className="px-1! text-[12.5px]"
          disabled={!one}
          onClick={() => one && pick(likeThis(items, one))}
        >
          Like this one
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!one}
          onClick={() => one && pick(items.filter((i) => i.colour === one.colour))}
        >
          Same colour
        </Button>
      </div>
      <SliderField
        label="Smaller than"
        notation={{
          parse: (text) => (Number(text) >= 0 ? Number(text) * square : null),
          format: (area) => trimmed(area / square, 4),
          unit: units === "mm" ? "mm²" : "in²",
        }}
        value={most}
        min={0}
        max={largest}
        sliderMax={Math.min(largest, 100)}
        step={0.5}
        onPreview={(area) => pick(areas.filter((i) => i.area < area))}
        onCommit={(area) => {
          setMost(area);
          pick(areas.filter((i) => i.area < area));
        }}
      >
        {most > 0
          ? `${small.length} ${small.length === 1 ? "is" : "are"} smaller, and picked`
          : "picks what is smaller"}
      </SliderField>
      <Button
        className="w-full"
        disabled={!picked.length}
        onClick={() => commit({ do: "remove", picked: idsOf(picked) })}
      >
        {picked.length ? `Drop the ${picked.length} picked` : "Drop what is picked"}
      </Button>
    </Fold>
  );
}
