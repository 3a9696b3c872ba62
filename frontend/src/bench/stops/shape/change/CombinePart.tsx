import { Scissors } from "lucide-react";
import { Button } from "../../../../ui/Button";
import { idsOf, seed, type Item } from "../../../shape/objects";
import { useBench } from "../../../store";
import { Section } from "../../parts";
import { Tools } from "../Tools";
import { say } from "./change";

export type How = "unite" | "carve" | "overlap" | "divide" | "silhouette";

const COMBINE: readonly { how: How; name: string; does: string }[] = [
  { how: "unite", name: "Unite", does: "All that is picked becomes one outline." },
  { how: "carve", name: "Carve", does: "The first one picked less the others." },
  { how: "overlap", name: "Overlap", does: "What all of them cover." },
  { how: "divide", name: "Divide", does: "Every area between the borders by itself." },
  { how: "silhouette", name: "Silhouette", does: "The outer border of all, holes filled." },
];

/** Picked in the order in which it was picked: the first one is the one that is cut. */
function inOrder(items: readonly Item[]): string[] {
  const order = useBench.getState().picked;
  const place = (i: Item) => Math.min(...i.ids.map((id) => order.indexOf(id)).filter((at) => at >= 0), 1e9);
  return idsOf([...items].sort((a, b) => place(a) - place(b)));
}

export function Combining({ picked }: { picked: readonly Item[] }) {
  const tool = useBench((s) => s.tool);
  return (
    <Section name="Combine" side={picked.length ? `${picked.length} picked` : "pick two or more"}>
      <div className="grid grid-cols-3 gap-1">
        {COMBINE.map(({ how, name, does }) => (
          <Button
            key={how}
            title={does}
            className={`h-8! px-1! text-[12.5px] ${how === "silhouette" ? "col-span-2" : ""}`}
            disabled={picked.length < (how === "divide" || how === "silhouette" || how === "unite" ? 1 : 2)}
            onClick={() => {
              const name = seed();
              say({ do: "combine", seed: name, how, picked: inOrder(picked) });
              if (how !== "divide") useBench.getState().pickAll([name]);
            }}
          >
            {name}
          </Button>
        ))}
      </div>
      <div className="mt-1.5 grid grid-cols-2 gap-1.5">
        <Tools tools={[{ tool: "trim", name: "Trim", sign: <Scissors size={14} aria-hidden /> }]} />
        <Button
          className="px-1! text-[12.5px]"
          disabled={!picked.length}
          onClick={() => say({ do: "split", seed: seed(), picked: idsOf(picked) })}
        >
          Split at crossings
        </Button>
      </div>
      {tool === "trim" && (
        <p className="text-soft mt-1 text-[12.5px]">Trims the picked outline, or the nearest one.</p>
      )}
    </Section>
  );
}
