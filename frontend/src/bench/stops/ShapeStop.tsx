import { NumberField } from "../../ui/fields";
import { formatLength, unitName } from "../../ui/length";
import { useDocument, useShown, useUnits } from "../select";
import { useBench } from "../store";
import { Figures, lengths, Section } from "./parts";

const SMALLEST = 0.6;
const LARGEST = 2000;

export function ShapeStop() {
  const document = useDocument();
  const flat = useShown();
  const units = useUnits();
  const draft = useBench((s) => s.draft);
  const { commit } = useBench.getState();
  if (!document || !flat) return null;
  const step = units === "mm" ? 1 : 25.4 / 16;
  const field = (side: "width" | "height") => ({
    notation: lengths(units),
    min: SMALLEST,
    max: LARGEST,
    step,
    value: draft?.do === "set-size" && draft.size.side === side ? (draft.size.mm ?? flat[side]) : flat[side],
    onCommit: (mm: number) => commit({ do: "set-size", size: { side, mm } }),
  });
  return (
    <>
      <Section name="Size of the art" side="proportions kept">
        <div className="space-y-1.5">
          <NumberField label="Width" {...field("width")} />
          <NumberField label="Height" {...field("height")} />
        </div>
        <p className="text-soft mt-2 text-[12.5px]">
          Type 60, 60mm, 2in or 5/2in. The side that was typed is kept exactly; the other follows.
        </p>
      </Section>
      <Figures
        rows={[
          [
            "Typed",
            `${document.size?.side ?? "width"} ${formatLength(document.size?.mm ?? 0, units)} ${unitName(units)}`,
          ],
          ["Regions", String(flat.regions.length)],
          ["Area covered", `${(flat.regions.reduce((sum, r) => sum + r.area, 0) / 100).toFixed(2)} cm²`],
        ]}
      />
    </>
  );
}
