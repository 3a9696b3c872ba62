import { ToggleGroup } from "radix-ui";

import type { Filament } from "../api/client";

/** A spool seen from the side: a ring of the filament's colour. */
export function Spool({ colour, size = 16 }: { colour: string; size?: number }) {
  return (
    <span
      aria-hidden
      className="inline-block shrink-0 rounded-full shadow-[0_0_0_1px_#0003]"
      style={{
        width: size,
        height: size,
        background: `radial-gradient(circle, var(--sheet) 0 30%, ${colour} 32%)`,
      }}
    />
  );
}

export function Spools({
  label,
  filaments,
  value,
  onChange,
}: {
  label: string;
  filaments: readonly Filament[];
  value: string;
  onChange: (id: string) => void;
}) {
  const named = filaments.find((f) => f.id === value);
  return (
    <div className="flex flex-wrap items-center gap-2.5 py-1.5">
      <ToggleGroup.Root
        type="single"
        aria-label={label}
        value={value}
        onValueChange={(next) => next && onChange(next)}
        className="flex flex-wrap gap-2"
      >
        {filaments.map((f) => (
          <ToggleGroup.Item
            key={f.id}
            value={f.id}
            aria-label={f.name}
            title={f.name}
            className="data-[state=on]:outline-act grid rounded-full outline-offset-2 data-[state=on]:outline-2"
          >
            <Spool colour={f.colour} size={22} />
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      <span className="text-soft">{named?.name ?? "several"}</span>
    </div>
  );
}
