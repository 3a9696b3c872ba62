import { MapPin, TriangleAlert } from "lucide-react";

import { Button } from "../ui/Button";
import { formatLength, inUnits, unitName } from "../ui/length";
import { useShown, useUnits } from "./select";
import { proposed } from "./proposed";
import { useBench } from "./store";
import { focusOn } from "./signals";

/** Half the width (mm) of what is shown round the place of a remark. */
const AROUND = 1.5;

/** What the maker should know: each remark leads to its place and offers what mends it. */
export function Remarks() {
  const flat = useShown();
  const units = useUnits();
  const { commit } = useBench.getState();
  if (!flat?.remarks.length) return null;
  return (
    <section aria-label="Remarks" className="mt-5">
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="text-[15px]">Remarks</h2>
        <span className="text-soft">{flat.remarks.length}</span>
      </div>
      <ul className="space-y-2">
        {flat.remarks.map(({ text, at, mend, mend_words }) => (
          <li
            key={text}
            className="border-remark bg-remark-wash flex gap-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]"
          >
            <TriangleAlert size={15} className="text-remark-text mt-0.5 shrink-0" aria-hidden />
            <div className="min-w-0 grow">
              {inUnits(text, units)}
              {at && (
                <button
                  type="button"
                  className="text-act mt-1 flex items-center gap-1 text-xs font-semibold hover:underline"
                  onClick={() => focusOn.send({ x: at[0], y: at[1], radius: AROUND })}
                >
                  <MapPin size={12} aria-hidden /> Show it at {formatLength(at[0], units, 2)},{" "}
                  {formatLength(at[1], units, 2)} {unitName(units)}
                </button>
              )}
              {mend && (
                <Button className="mt-1.5 h-7! w-full text-[12.5px]" onClick={() => commit(proposed(mend))}>
                  {mend_words}
                </Button>
              )}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
