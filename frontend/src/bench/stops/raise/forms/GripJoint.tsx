import { Choice } from "../../../../ui/fields";
import type { Document } from "../../../../api/client";
import { Length } from "./Length";

/** How a knob or bar is held by its plate. */
export function GripJoint({
  grip,
  onChange,
}: {
  grip: Document["stamp"]["grip"];
  onChange: (change: Partial<Document["stamp"]["grip"]>) => void;
}) {
  return (
    <>
      <Choice
        label="Joint"
        value={grip.joint}
        options={[
          { value: "peg", name: "peg and hole" },
          { value: "joined", name: "one piece" },
        ]}
        onChange={(joint) => onChange({ joint })}
      />
      {grip.joint === "peg" ? (
        <>
          <Length
            label="Peg width"
            field="stamp.grip.peg"
            value={grip.peg ?? Math.min(grip.diameter / 2, 8)}
            min={1}
            max={100}
            step={0.5}
            onChange={(peg) => onChange({ peg })}
          />
          <Length
            label="Clearance"
            field="stamp.grip.clearance"
            value={grip.clearance}
            max={2}
            step={0.05}
            onChange={(clearance) => onChange({ clearance })}
          />
          <p className="text-soft text-[12.5px]">
            Printed beside the stamp, standing on the end you hold. Press or glue the peg into the back.
          </p>
        </>
      ) : (
        <p className="text-soft text-[12.5px]">The plate hangs over the grip, so it needs supports.</p>
      )}
    </>
  );
}
