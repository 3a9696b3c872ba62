import { Choice, NumberField, PLAIN } from "../../../../ui/fields";
import type { Document } from "../../../../api/client";
import { Fold, Section } from "../../parts";
import { backingOf } from "../../../support";
import { Length } from "./Length";
import { commitNumbers, preview } from "./setForm";

type Nameplate = NonNullable<Document["nameplate"]>;

export function NameplateNumbers({ numbers }: { numbers: Nameplate }) {
  const put = (change: Partial<Nameplate>) => commitNumbers("nameplate", numbers, change);
  const fixing = numbers.fixing;
  const kind = fixing.kind;
  return (
    <>
      <Section name="Nameplate">
        <Length
          label="Backing"
          field="nameplate.thickness"
          value={backingOf(numbers)}
          min={0.2}
          max={100}
          top={8}
          onPreview={(thickness) => preview({ nameplate: { ...numbers, thickness } })}
          onChange={(thickness) => put({ thickness })}
        />
        <div className="space-y-1.5">
          <Choice
            label="Loose letters"
            value={numbers.join}
            options={[
              { value: "grow", name: "wider backing" },
              { value: "tie", name: "ties" },
            ]}
            onChange={(join) => put({ join })}
          />
          {numbers.join === "tie" && (
            <Length
              label="Tie width"
              field="nameplate.tie_width"
              value={numbers.tie_width}
              min={0.4}
              max={50}
              onChange={(tie_width) => put({ tie_width })}
            />
          )}
          <Choice
            label="Fixing"
            value={kind}
            options={[
              { value: "loop", name: "key loop" },
              { value: "screws", name: "screws" },
              { value: "none", name: "none" },
            ]}
            onChange={(next) => put({ fixing: { ...fixing, kind: next } })}
          />
          {kind !== "none" && (
            <>
              <Length
                label="Hole diameter"
                value={fixing.inner}
                min={0.5}
                max={50}
                onChange={(inner) => put({ fixing: { ...fixing, inner } })}
              />
              <Length
                label="Wall around it"
                value={fixing.wall}
                min={0.4}
                max={50}
                onChange={(wall) => put({ fixing: { ...fixing, wall } })}
              />
            </>
          )}
          {kind === "loop" && (
            <Choice
              label="Where the loop sits"
              value={fixing.side}
              options={[
                { value: "auto", name: "auto" },
                { value: "left", name: "left" },
                { value: "top", name: "top" },
                { value: "right", name: "right" },
                { value: "bottom", name: "bottom" },
              ]}
              onChange={(side) => put({ fixing: { ...fixing, side } })}
            />
          )}
        </div>
      </Section>
      <Fold name="Frame and feet" open={numbers.frame_width > 0 || numbers.foot > 0}>
        <div className="space-y-1.5">
          <Length
            label="Frame width"
            field="nameplate.frame_width"
            value={numbers.frame_width}
            max={50}
            step={0.5}
            onChange={(frame_width) => put({ frame_width })}
          />
          {numbers.frame_width > 0 && (
            <Length
              label="Frame height"
              field="nameplate.frame_height"
              value={numbers.frame_height}
              min={0.1}
              max={50}
              onChange={(frame_height) => put({ frame_height })}
            />
          )}
          <NumberField
            label="Lean back on feet"
            notation={{ ...PLAIN, unit: "°" }}
            value={numbers.foot}
            min={0}
            max={60}
            step={5}
            onCommit={(foot) => put({ foot })}
          />
        </div>
      </Fold>
    </>
  );
}
