import { TriangleAlert } from "lucide-react";

import { useBegun, useShown } from "./select";
import { GatherStop } from "./stops/GatherStop";
import { ProveStop } from "./stops/ProveStop";
import { RaiseStop } from "./stops/RaiseStop";
import { ShapeStop } from "./stops/ShapeStop";
import { TraceStop } from "./stops/TraceStop";
import { useBench } from "./store";

const PANELS = {
  Gather: GatherStop,
  Trace: TraceStop,
  Shape: ShapeStop,
  Raise: RaiseStop,
  Prove: ProveStop,
} as const;

/** The controls of the stop one is at, and the remarks. */
export function Tuning() {
  const stop = useBench((s) => s.stop);
  const problem = useBench((s) => s.problem);
  const begun = useBegun();
  const traced = useBench((s) => Boolean(s.piece?.document.pictures.length));
  const Panel = PANELS[stop];
  return (
    <aside aria-label={`Tuning: ${stop}`} className="border-rule min-h-0 overflow-y-auto border-l px-4 py-3">
      {(stop === "Trace" ? traced : begun) || stop === "Gather" || stop === "Shape" ? (
        <Panel />
      ) : (
        <p className="text-soft">
          Here is something to do as soon as the piece has a picture or something drawn in Shape.
        </p>
      )}
      {problem && (
        <p
          role="alert"
          className="border-error bg-error-wash sticky bottom-0 z-10 mt-3 rounded-r-md border-l-4 px-3 py-2"
        >
          {problem.text}
        </p>
      )}
      <Remarks />
    </aside>
  );
}

function Remarks() {
  const flat = useShown();
  if (!flat?.remarks.length) return null;
  return (
    <section aria-label="Remarks" className="mt-5">
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="text-[15px]">Remarks</h2>
        <span className="text-soft">{flat.remarks.length}</span>
      </div>
      <ul className="space-y-2">
        {flat.remarks.map((remark) => (
          <li
            key={remark}
            className="border-remark bg-remark-wash flex gap-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]"
          >
            <TriangleAlert size={15} className="text-remark-text mt-0.5 shrink-0" aria-hidden />
            {remark}
          </li>
        ))}
      </ul>
    </section>
  );
}
