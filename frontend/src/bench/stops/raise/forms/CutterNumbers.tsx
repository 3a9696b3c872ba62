import { Button } from "../../../../ui/Button";
import { SwitchField } from "../../../../ui/fields";
import type { Document } from "../../../../api/client";
import { Fold, Section } from "../../parts";
import { Outcome } from "../Outcome";
import { Length } from "./Length";
import { commitNumbers, preview } from "./setForm";

type Cutter = NonNullable<Document["cutter"]>;

/** Grips by the hand that holds them, mm. */
const GRIPS: readonly { name: string; numbers: Partial<Cutter> }[] = [
  { name: "Thin flange", numbers: { flange_width: 4, flange_height: 3, flange_round: 0, depth: 14 } },
  { name: "Deep grip", numbers: { flange_width: 5, flange_height: 7, flange_round: 1.6, depth: 18 } },
  { name: "Child’s hand", numbers: { flange_width: 7, flange_height: 9, flange_round: 2.4, depth: 22 } },
];

export function CutterNumbers({ numbers }: { numbers: Cutter }) {
  const put = (change: Partial<Cutter>) => commitNumbers("cutter", numbers, change);
  return (
    <>
      <Section name="Cutter">
        <Length
          label="Depth"
          field="cutter.depth"
          value={numbers.depth}
          min={2}
          max={200}
          top={30}
          step={0.5}
          onPreview={(depth) => preview({ cutter: { ...numbers, depth } })}
          onChange={(depth) => put({ depth })}
        />
        <p className="mb-1">Grip</p>
        <div role="group" aria-label="Grip" className="mb-1.5 grid grid-cols-3 gap-1">
          {GRIPS.map(({ name, numbers: grip }) => (
            <Button
              key={name}
              className="aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px]"
              aria-pressed={Object.entries(grip).every(([key, v]) => numbers[key as keyof Cutter] === v)}
              onClick={() => put(grip)}
            >
              {name}
            </Button>
          ))}
        </div>
        <SwitchField
          label="Handle bar across the back"
          checked={numbers.handle}
          onChange={(handle) => put({ handle })}
        />
        <div className="space-y-1.5">
          {numbers.handle && (
            <Length
              label="Handle width"
              field="cutter.handle_width"
              value={numbers.handle_width}
              min={2}
              max={100}
              step={1}
              onChange={(handle_width) => put({ handle_width })}
            />
          )}
          <Length
            label="Flange width"
            field="cutter.flange_width"
            value={numbers.flange_width}
            max={100}
            step={0.5}
            onChange={(flange_width) => put({ flange_width })}
          />
          <Length
            label="Flange height"
            field="cutter.flange_height"
            value={numbers.flange_height}
            min={0.2}
            max={100}
            step={0.5}
            onChange={(flange_height) => put({ flange_height })}
          />
          <Length
            label="Rounded edges"
            field="cutter.flange_round"
            value={numbers.flange_round}
            max={20}
            step={0.2}
            onChange={(flange_round) => put({ flange_round })}
          />
        </div>
      </Section>
      <Fold name="Blade">
        <div className="space-y-1.5">
          <Length
            label="Edge thickness"
            field="cutter.edge"
            value={numbers.edge}
            min={0.1}
            max={10}
            onChange={(edge) => put({ edge })}
          />
          <Length
            label="Wall thickness"
            field="cutter.wall"
            value={numbers.wall}
            min={0.2}
            max={20}
            onChange={(wall) => put({ wall })}
          />
          <Length
            label="Tapers over"
            field="cutter.taper"
            value={numbers.taper}
            max={200}
            step={0.5}
            onChange={(taper) => put({ taper })}
          />
        </div>
      </Fold>
      <Fold name="Holes and inner lines">
        <SwitchField label="Cut large holes" checked={numbers.holes} onChange={(holes) => put({ holes })} />
        <SwitchField
          label="Press inner lines into the dough"
          checked={numbers.ribs}
          onChange={(ribs) => put({ ribs })}
        />
        {numbers.ribs && (
          <div className="space-y-1.5">
            <Length
              label="Rib width"
              field="cutter.rib_width"
              value={numbers.rib_width}
              min={0.2}
              max={20}
              onChange={(rib_width) => put({ rib_width })}
            />
            <Length
              label="Ribs end short by"
              field="cutter.rib_short"
              value={numbers.rib_short}
              max={200}
              step={0.5}
              onChange={(rib_short) => put({ rib_short })}
            />
            <Length
              label="Cross-bar width"
              field="cutter.bar_width"
              value={numbers.bar_width}
              min={0.4}
              max={50}
              step={0.5}
              onChange={(bar_width) => put({ bar_width })}
            />
          </div>
        )}
      </Fold>
      <Outcome form="cutter" />
    </>
  );
}
