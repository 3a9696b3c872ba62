import { Link2 } from "lucide-react";
import { useState } from "react";
import { type Schemas } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { NumberField, PLAIN } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { idsOf, seed, type Item } from "../../../shape/objects";
import { useShape } from "../../../shape/state";
import { useItems } from "../../../shape/useSheet";
import { lengths, Fold } from "../../parts";
import { Tools } from "../Tools";
import { say } from "./change";

type TieNumbers = Schemas["TieNumbers"];

export function Ties({ picked }: { picked: readonly Item[] }) {
  const width = useShape((s) => s.tieWidth);
  const { set } = useShape.getState();
  const units = useUnits();
  const items = useItems();
  const ties = picked.filter((i) => i.thing?.kind === "path" && (i.thing.tie ?? i.thing.tied));
  const [first] = ties;
  const path = first?.thing?.kind === "path" ? first.thing : null;
  const own = path?.tie ? [path.tie] : (path?.tied?.ties ?? []);
  const [chosen, setChosen] = useState(0);
  const which = Math.min(chosen, own.length - 1);
  const tie = own[which] ?? null;
  return (
    <Fold
      name="Ties"
      open={own.length > 0}
      side={own.length ? `${own.length} in the pick` : "join loose parts"}
    >
      <div className="space-y-1.5">
        {own.length > 1 && (
          <NumberField
            label="Which tie"
            notation={PLAIN}
            value={which + 1}
            min={1}
            max={own.length}
            step={1}
            onCommit={(number) => setChosen(Math.round(number) - 1)}
          />
        )}
        <NumberField
          label={tie ? "Its width" : "Tie width"}
          notation={lengths(units)}
          value={tie ? Number(tie.width.toFixed(4)) : width}
          min={0.2}
          max={100}
          step={0.2}
          onCommit={(mm) => {
            set({ tieWidth: mm });
            if (tie) say({ do: "retie", picked: [first?.id ?? ""], which, width: mm });
          }}
        />
        {tie && ties.length === 1 && <TieEnds tie={tie} id={first?.id ?? ""} which={which} />}
        <div className="grid grid-cols-2 gap-1.5">
          <Tools tools={[{ tool: "tie", name: "By two clicks", sign: <Link2 size={14} aria-hidden /> }]} />
          <Button
            className="px-1! text-[12.5px]"
            onClick={() => {
              const parts = picked.length ? picked : items.filter((i) => i.area > 0);
              if (parts.length) say({ do: "tie", seed: seed(), picked: idsOf(parts), width, links: null });
            }}
          >
            Propose ties
          </Button>
        </div>
      </div>
    </Fold>
  );
}

/** Where a tie begins and ends, mm on the sheet. */
function TieEnds({ tie, id, which }: { tie: TieNumbers; id: string; which: number }) {
  const units = useUnits();
  const place = (end: "start" | "end", axis: 0 | 1) => (
    <NumberField
      label={`${end === "start" ? "From" : "To"} ${"xy".charAt(axis)}`}
      notation={lengths(units)}
      value={Number(tie[end][axis].toFixed(3))}
      min={-5000}
      max={5000}
      step={0.5}
      onCommit={(mm) => {
        const [x, y] = tie[end];
        say({ do: "retie", picked: [id], which, [end]: axis === 0 ? [mm, y] : [x, mm] });
      }}
    />
  );
  return (
    <>
      {place("start", 0)}
      {place("start", 1)}
      {place("end", 0)}
      {place("end", 1)}
    </>
  );
}
