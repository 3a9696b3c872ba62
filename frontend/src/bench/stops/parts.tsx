import { ChevronRight } from "lucide-react";
import type { ReactNode } from "react";
import { create } from "zustand";

import { formatLength, parseLength, unitName, type Units } from "../../ui/length";
import type { Notation } from "../../ui/fields";
import { recalled, remember } from "../remembered";

type SectionProps = { name: string; side?: ReactNode; children: ReactNode };

export function Section({ name, side, children }: SectionProps) {
  return (
    <section aria-label={name} className="mb-5">
      <div className="mb-1.5 flex items-baseline justify-between gap-2">
        <h2 className="text-[15px]">{name}</h2>
        {side && <span className="text-soft text-right">{side}</span>}
      </div>
      {children}
    </section>
  );
}

const useFolds = create<{ open: Readonly<Record<string, boolean>> }>(() => ({
  open: recalled<Record<string, boolean>>("folds", {}),
}));

/** A section that is folded until it is needed; how it was left is remembered. open: it is needed now. */
export function Fold({ name, side, open = false, children }: SectionProps & { open?: boolean }) {
  const left = useFolds((s) => s.open[name]);
  const shown = left ?? open;
  const turn = () => {
    const now = { ...useFolds.getState().open, [name]: !shown };
    useFolds.setState({ open: now });
    remember("folds", now);
  };
  return (
    <section aria-label={name} className={shown ? "mb-5" : "mb-2"}>
      <h2 className="mb-1.5 text-[15px]">
        <button
          type="button"
          aria-expanded={shown}
          onClick={turn}
          className="hover:bg-act-wash -mx-1.5 flex w-[calc(100%+0.75rem)] items-center gap-1.5 rounded-md px-1.5 py-1 text-left"
        >
          <ChevronRight
            size={14}
            aria-hidden
            className={`transition-transform ${shown ? "rotate-90" : ""}`}
          />
          <span className="grow">{name}</span>
          {side && (
            <span className="text-soft font-sans text-[13px] font-normal tracking-normal">{side}</span>
          )}
        </button>
      </h2>
      {shown && children}
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
