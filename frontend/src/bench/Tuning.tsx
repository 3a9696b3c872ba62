import { inUnits } from "../ui/length";
import { Remarks } from "./Remarks";
import { useBegun, useUnits } from "./select";
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
  const units = useUnits();
  const traced = useBench((s) => Boolean(s.piece?.document.pictures.length));
  const Panel = PANELS[stop];
  return (
    <aside
      key={stop}
      aria-label={`Tuning: ${stop}`}
      className="border-rule min-h-0 overflow-y-auto border-l px-4 py-3"
    >
      {(stop === "Trace" ? traced : begun) || stop === "Gather" || stop === "Shape" ? (
        <Panel />
      ) : (
        <p className="text-soft">
          Nothing to do here yet. Add a picture in Gather, or draw something in Shape.
        </p>
      )}
      {problem && (
        <p
          role="alert"
          className="border-error bg-error-wash sticky bottom-0 z-10 mt-3 rounded-r-md border-l-4 px-3 py-2"
        >
          {inUnits(problem.text, units)}
        </p>
      )}
      <Remarks />
    </aside>
  );
}
