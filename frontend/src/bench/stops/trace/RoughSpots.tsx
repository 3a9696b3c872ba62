import { ChevronLeft, ChevronRight } from "lucide-react";

import { SignButton } from "../../../ui/Button";
import { trimmed } from "../../../ui/length";
import { useKeys } from "../../keys/useKeys";
import { focusOn } from "../../signals";
import { useBench } from "../../store";
import { SPOT_WORDS, useLookOver, type LookOver } from "../../useLookOver";
import { Section } from "../parts";

/** Where the trace was unsure, the places that want a look most first; stepping through them zooms there. */
export function RoughSpots() {
  const found = useLookOver();
  const at = useBench((s) => s.spot);
  useKeys("stop", { "rough-spot": ({ key }) => (found ? stepSpot(found, key === "." ? 1 : -1) : false) });
  if (!found) return null;
  const { spots } = found;
  const current = at === null ? undefined : spots[at];
  return (
    <Section name="Rough spots" side={spots.length ? String(spots.length) : "none"}>
      {spots.length > 0 ? (
        <>
          <div className="flex items-center justify-between">
            <SignButton label="The rough spot before" onClick={() => stepSpot(found, -1)}>
              <ChevronLeft size={16} />
            </SignButton>
            <span role="status" className="text-[13px]">
              {current && at !== null
                ? `${at + 1} of ${spots.length}: ${wordsFor(current)}`
                : "step through them"}
            </span>
            <SignButton label="The next rough spot" onClick={() => stepSpot(found, 1)}>
              <ChevronRight size={16} />
            </SignButton>
          </div>
          <ul aria-label="Rough spots" className="border-rule mt-1 max-h-40 overflow-y-auto border-t">
            {spots.map((spot, i) => (
              <li key={i} className="border-rule border-b">
                <button
                  type="button"
                  aria-pressed={at === i}
                  onClick={() => goTo(found, i)}
                  className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-7 w-full items-center justify-between px-1.5 text-left"
                >
                  {wordsFor(spot)}
                  <span className="bg-rule h-1.5 w-12 overflow-hidden rounded" aria-hidden>
                    <span
                      className="bg-remark block h-full"
                      style={{ width: `${Math.round(spot.weight * 100)}%` }}
                    />
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </>
      ) : (
        <p className="text-soft text-xs">The outlines lie on clear edges everywhere.</p>
      )}
    </Section>
  );
}

function wordsFor(spot: LookOver["spots"][number]): string {
  const words = SPOT_WORDS[spot.kind];
  return spot.off ? `${words} by ${trimmed(spot.off, 1)} px` : words;
}

export function stepSpot(found: LookOver, by: number): void {
  const at = useBench.getState().spot;
  const count = found.spots.length;
  if (count) goTo(found, at === null ? (by > 0 ? 0 : count - 1) : (at + by + count) % count);
}

function goTo(found: LookOver, number: number): void {
  const spot = found.spots[number];
  if (!spot) return;
  useBench.getState().setSpot(number);
  const [x = 0, y = 0] = spot.at;
  focusOn.send({ x, y, radius: spot.radius });
}
