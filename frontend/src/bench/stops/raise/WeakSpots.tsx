import { formatLength, unitName } from "../../../ui/length";
import { useUnits } from "../../select";
import { useBench } from "../../store";
import { focusOn } from "../../useLookOver";
import { Section } from "../parts";
import { MEND_WORDS, useWeakSpots, WEAK_WORDS } from "./useWeakSpots";

/** So many weak spots are listed; the views mark all. */
const MOST_LISTED = 30;

/** Places that a print would not forgive, each with what mends it; the same list in Raise and in Prove. */
export function WeakSpots() {
  const units = useUnits();
  const places = useWeakSpots();
  const at = useBench((s) => s.spot);
  const { commit, setSpot, pickAll } = useBench.getState();
  const mm = (value: number) => `${formatLength(value, units)} ${unitName(units)}`;
  return (
    <Section name="Weak spots" side={places ? (places.length ? String(places.length) : "none") : "…"}>
      {places?.length === 0 && (
        <p className="text-soft text-xs">
          Every wall and gap is as wide as the nozzle, and nothing is loose.
        </p>
      )}
      {places && places.length > 0 && (
        <ul aria-label="Weak spots" className="border-rule border-t">
          {places.slice(0, MOST_LISTED).map((place, i) => (
            <li key={i} className="border-rule flex items-center border-b">
              <button
                type="button"
                aria-pressed={at === i}
                onClick={() => {
                  const [x = 0, y = 0] = place.at;
                  setSpot(i);
                  pickAll(place.regions);
                  focusOn({ x, y, radius: Math.max(place.radius, 0.5) });
                }}
                className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 grow items-center justify-between gap-2 px-1.5 text-left"
              >
                <span>{WEAK_WORDS[place.kind]}</span>
                <span className="text-soft text-xs">{mm(place.width)}</span>
              </button>
              {place.mend && (
                <button
                  type="button"
                  className="text-act h-8 px-1.5 text-xs font-semibold hover:underline"
                  aria-label={`${MEND_WORDS[place.kind]}: ${WEAK_WORDS[place.kind]} of ${mm(place.width)}`}
                  onClick={() => {
                    setSpot(null);
                    if (place.mend) commit(place.mend);
                  }}
                >
                  {MEND_WORDS[place.kind]}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      {places && places.length > MOST_LISTED && (
        <p className="text-soft mt-1 text-xs">and {places.length - MOST_LISTED} more, marked in the views</p>
      )}
    </Section>
  );
}
