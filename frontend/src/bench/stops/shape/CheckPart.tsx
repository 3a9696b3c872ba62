import { Play } from "lucide-react";

import { Button } from "../../../ui/Button";
import { namesOf, type Item, seed } from "../../shape/objects";
import { useShape } from "../../shape/state";
import { useItems } from "../../shape/useSheet";
import { useBench } from "../../store";
import { focusOn } from "../../signals";
import { Section } from "../parts";

/** Outlines played one after another, and what of them is open or crosses itself. */
export function CheckPart() {
  const items = useItems();
  const { set } = useShape.getState();
  const { pickAll, commit } = useBench.getState();
  const open = items.filter((i) => i.open);
  const crossed = items.filter((i) => i.crossings.length && !i.open);
  const show = (item: Item) => pickAll(namesOf(item));
  return (
    <Section name="Check" side={`${items.length} outlines`}>
      <Button className="w-full" disabled={!items.length} onClick={() => set({ playing: 0 })}>
        <Play size={14} aria-hidden /> Play them in order
      </Button>
      {open.length > 0 && (
        <ul aria-label="Open lines" className="mt-2 space-y-1">
          {open.map((item) => (
            <li key={item.id} className="flex items-center justify-between gap-2">
              <button type="button" className="truncate text-left underline" onClick={() => show(item)}>
                {item.name} is open
              </button>
              <Button
                className="h-7! px-2! text-[12.5px]"
                onClick={() => commit({ do: "join", picked: [item.id] })}
              >
                Close it
              </Button>
            </li>
          ))}
        </ul>
      )}
      {crossed.length > 0 && (
        <ul aria-label="Outlines that cross themselves" className="mt-2 space-y-1">
          {crossed.map((item) => (
            <li key={item.id} className="flex items-center justify-between gap-2">
              <button
                type="button"
                className="truncate text-left underline"
                onClick={() => {
                  const [x, y] = item.crossings[0] ?? [0, 0];
                  show(item);
                  focusOn.send({ x, y, radius: 1 });
                }}
              >
                {item.name} crosses itself
              </button>
              <Button
                className="h-7! px-2! text-[12.5px]"
                onClick={() => commit({ do: "combine", how: "unite", seed: seed(), picked: [item.id] })}
              >
                Untangle
              </Button>
            </li>
          ))}
        </ul>
      )}
      {!open.length && !crossed.length && items.length > 0 && (
        <p className="text-soft mt-1.5 text-[12.5px]">Every outline is one closed path.</p>
      )}
    </Section>
  );
}
