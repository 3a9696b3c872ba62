import type { ReactNode } from "react";

import { formatLength, parseLength, unitName, type Units } from "../../ui/length";
import type { Notation } from "../../ui/fields";

export function Section({ name, side, children }: { name: string; side?: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={name} className="mb-5">
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="text-[15px]">{name}</h2>
        {side && <span className="text-soft">{side}</span>}
      </div>
      {children}
    </section>
  );
}

export function Figures({ rows }: { rows: readonly (readonly [string, ReactNode])[] }) {
  return (
    <dl className="border-rule grid grid-cols-[1fr_auto] gap-y-1 border-t pt-2">
      {rows.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-soft">{name}</dt>
          <dd className="text-right">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Lengths as the piece's units write them; values are mm. */
export function lengths(units: Units): Notation {
  return {
    parse: (text) => parseLength(text, units),
    format: (mm) => formatLength(mm, units),
    unit: unitName(units),
  };
}
