import { useState } from "react";

import type { Schemas } from "../api/client";
import { Button } from "../ui/Button";
import { NumberField, PLAIN } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { LIMITS } from "./usage";

type Own = Schemas["OwnLimits-Input"];

/** What one person may use of the workshop, where that is to be something else than everybody's. */
export function LimitsOf({
  person,
  everybody,
  onChange,
}: {
  person: Schemas["KeptPerson"];
  everybody: Schemas["LimitsOut"];
  onChange: (own: Own) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Modal
      title={`Limits of ${person.title}`}
      trigger={
        <Button kind="quiet" aria-label={`Limits of ${person.title}`}>
          Limits
        </Button>
      }
      open={open}
      onOpenChange={setOpen}
      closing
      className="w-[380px]"
    >
      <div className="space-y-2">
        {LIMITS.map(({ name, label, unit, least, most }) => (
          <NumberField
            key={name}
            label={label}
            value={person.usage.limits[name]}
            notation={{ ...PLAIN, unit }}
            min={least}
            max={most}
            step={1}
            onCommit={(value) => onChange({ ...person.own, [name]: Math.round(value) })}
          />
        ))}
      </div>
      <div className="mt-4 flex items-center justify-between gap-4">
        <p className="text-soft text-xs">
          Everybody else: {everybody.pieces} pieces, {everybody.megabytes} MB, {everybody.minutes} min,{" "}
          {everybody.jobs} at once.
        </p>
        <Button
          className="shrink-0"
          disabled={LIMITS.every(({ name }) => person.own[name] == null)}
          onClick={() => onChange({})}
        >
          Same as everybody
        </Button>
      </div>
    </Modal>
  );
}
