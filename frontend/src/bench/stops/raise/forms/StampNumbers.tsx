import { Button } from "../../../../ui/Button";
import { Choice, NumberField, PLAIN, SwitchField } from "../../../../ui/fields";
import type { Document } from "../../../../api/client";
import { Section } from "../../parts";
import { Outcome } from "../Outcome";
import { GripJoint } from "./GripJoint";
import { Length } from "./Length";
import { commitNumbers, preview } from "./setForm";

type Stamp = NonNullable<Document["stamp"]>;

/** Knobs and bars by the hand that holds them, mm. */
const HANDS = [
  { name: "Usual size", knob: { diameter: 16, height: 18 }, bar: { diameter: 16, height: 18, length: 40 } },
  { name: "Child’s hand", knob: { diameter: 28, height: 30 }, bar: { diameter: 24, height: 28, length: 60 } },
] as const;

export function StampNumbers({ numbers }: { numbers: Stamp }) {
  const put = (change: Partial<Stamp>) => commitNumbers("stamp", numbers, change);
  const grip = numbers.grip;
  const kind = grip.kind;
  return (
    <>
      <Section name="Stamp">
        <Length
          label="Relief depth"
          field="stamp.depth"
          value={numbers.depth}
          min={0.2}
          max={50}
          top={6}
          onPreview={(depth) => preview({ stamp: { ...numbers, depth } })}
          onChange={(depth) => put({ depth })}
        />
        <div className="space-y-1.5">
          <Length
            label="Backing plate"
            field="stamp.thickness"
            value={numbers.thickness}
            min={0.4}
            max={100}
            onChange={(thickness) => put({ thickness })}
          />
          <NumberField
            label="Draft"
            notation={{ ...PLAIN, unit: "°" }}
            value={numbers.draft}
            min={0}
            max={45}
            step={1}
            onCommit={(draft) => put({ draft })}
          />
        </div>
        <SwitchField
          label="Mark on the back for up"
          checked={numbers.mark}
          onChange={(mark) => put({ mark })}
        />
        <Choice
          label="Grip"
          value={kind}
          options={[
            { value: "none", name: "no grip" },
            { value: "knob", name: "knob" },
            { value: "bar", name: "bar" },
            { value: "socket", name: "socket" },
          ]}
          onChange={(next) =>
            put({
              grip: {
                ...grip,
                kind: next,
                // In one with its plate a grip would hang in the air while it is printed.
                joint: kind === "knob" || kind === "bar" ? grip.joint : "peg",
                height: null,
                diameter: next === "socket" ? 8 : grip.diameter,
              },
            })
          }
        />
        {(kind === "knob" || kind === "bar") && (
          <div role="group" aria-label="Size of the grip" className="mt-1.5 grid grid-cols-2 gap-1">
            {HANDS.map(({ name, ...size }) => (
              <Button
                key={name}
                className="aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px]"
                aria-pressed={
                  grip.diameter === size[kind].diameter && (grip.height ?? 18) === size[kind].height
                }
                onClick={() => put({ grip: { ...grip, ...size[kind] } })}
              >
                {name}
              </Button>
            ))}
          </div>
        )}
        {kind !== "none" && (
          <div className="mt-1.5 space-y-1.5">
            <Length
              label={kind === "bar" ? "Bar width" : kind === "socket" ? "Peg diameter" : "Knob diameter"}
              value={grip.diameter}
              min={1}
              max={200}
              step={0.5}
              onChange={(diameter) => put({ grip: { ...grip, diameter } })}
            />
            <Length
              label={kind === "socket" ? "Socket depth" : "Grip height"}
              value={grip.height ?? (kind === "socket" ? 2.2 : 18)}
              min={1}
              max={200}
              step={0.5}
              onChange={(height) => put({ grip: { ...grip, height } })}
            />
            {kind === "bar" && (
              <Length
                label="Bar length"
                value={grip.length}
                min={1}
                max={200}
                step={1}
                onChange={(length) => put({ grip: { ...grip, length } })}
              />
            )}
            {kind !== "socket" && (
              <GripJoint grip={grip} onChange={(change) => put({ grip: { ...grip, ...change } })} />
            )}
          </div>
        )}
      </Section>
      <Outcome form="stamp" />
    </>
  );
}
