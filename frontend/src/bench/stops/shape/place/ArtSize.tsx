import type { Flat } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { NumberField } from "../../../../ui/fields";
import { formatLength, unitName } from "../../../../ui/length";
import { useUnits } from "../../../select";
import { useOverlaid } from "../../../overlaid";
import { useBench } from "../../../store";
import { lengths, Section } from "../../parts";

export function ArtSize({ flat }: { flat: Flat }) {
  const units = useUnits();
  const wanted = useOverlaid("set-size");
  const { commit } = useBench.getState();
  if (!flat.regions.some((r) => !r.left_out)) return null;
  const step = units === "mm" ? 1 : 25.4 / 16;
  const typed = flat.size;
  const say = (mm: number) => `${formatLength(mm, units)} ${unitName(units)}`;
  const field = (side: "width" | "height") => ({
    notation: lengths(units),
    min: 0.1,
    max: 2000,
    step,
    value: wanted.side === side ? (wanted.mm ?? flat[side]) : flat[side],
    onCommit: (mm: number) => commit({ do: "set-size", side, mm }),
  });
  return (
    <Section name="Size of the art" side="proportions kept">
      <div className="space-y-1.5">
        <NumberField label="Width" {...field("width")} />
        <NumberField label="Height" {...field("height")} />
      </div>
      {typed && !typed.holds && (
        <div className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]">
          <p className="mb-1.5">
            {typed.side === "width" ? "Width" : "Height"} was set to {say(typed.mm)}; it is {say(typed.now)}{" "}
            now.
          </p>
          <Button
            className="w-full"
            onClick={() =>
              commit({ do: "set-size", side: typed.side === "height" ? "height" : "width", mm: typed.mm })
            }
          >
            Set {say(typed.mm)} again
          </Button>
        </div>
      )}
    </Section>
  );
}
