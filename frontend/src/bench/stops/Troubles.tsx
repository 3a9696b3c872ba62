import { ChevronLeft, ChevronRight } from "lucide-react";

import { Button, SignButton } from "../../ui/Button";
import { useProve } from "../prove/state";
import { useTroubles, type Placed } from "../prove/useTroubles";
import { troubleWords } from "../prove/words";
import { proposed } from "../proposed";
import { useUnits } from "../select";
import { useBench } from "../store";
import { focusOn } from "../signals";
import { lengths, Section } from "./parts";

type Kind = { kind: Placed["kind"]; numbers: number[] };

/** What will not print as it is drawn, measured on the layers: kind by kind, each place in turn, with its mend. */
export function Troubles() {
  const troubles = useTroubles();
  const at = useProve((s) => s.trouble);
  const units = useUnits();
  const stop = useBench((s) => s.stop);
  const { commit, pickAll } = useBench.getState();
  const { setTrouble, setLayer, setPlaying } = useProve.getState();
  const notation = lengths(units);
  const mm = (value: number) => `${notation.format(value)} ${notation.unit}`;
  const show = (number: number | undefined) => {
    const trouble = troubles?.[number ?? -1];
    if (!trouble || number === undefined) return;
    setTrouble(number);
    pickAll(trouble.place.regions);
    if (stop === "Prove") {
      setPlaying(false);
      setLayer(trouble.first - 1);
    } else {
      const [x = 0, y = 0] = trouble.place.at;
      focusOn.send({ x, y, radius: Math.max(trouble.place.radius, 0.5) });
    }
  };
  const side = troubles ? (troubles.length ? String(troubles.length) : "nothing") : "…";
  const looked = at === null ? undefined : troubles?.[at];
  return (
    <Section name="What won’t print" side={side}>
      {troubles?.length === 0 && (
        <p className="text-soft text-xs">Every part gets printed, stands on something and fits the bed.</p>
      )}
      {troubles && troubles.length > 0 && (
        <ul aria-label="What won’t print" className="border-rule border-t">
          {byKind(troubles).map(({ kind, numbers }) => {
            const here = at === null ? -1 : numbers.indexOf(at);
            const first = troubles[numbers[0] ?? 0];
            if (!first) return null;
            const { name } = troubleWords(first, mm);
            const many = numbers.length > 1;
            const mend = here >= 0 ? looked?.place.mend : first.place.mend;
            const place = here >= 0 ? `${here + 1} of ${numbers.length}` : `${numbers.length} places`;
            return (
              <li key={kind} className="border-rule border-b">
                <div className="flex items-center">
                  <button
                    type="button"
                    aria-pressed={here >= 0}
                    onClick={() => (here >= 0 && !many ? setTrouble(null) : show(numbers[Math.max(here, 0)]))}
                    className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 min-w-0 grow items-center justify-between gap-2 px-1.5 text-left"
                  >
                    <span className="truncate">{name}</span>
                    <span className="text-soft shrink-0 text-xs tabular-nums">
                      {many ? place : `layer ${first.first}`}
                    </span>
                  </button>
                  {many && (
                    <>
                      <SignButton
                        label={`The place before: ${name}`}
                        className="size-7!"
                        onClick={() =>
                          show(numbers[(Math.max(here, 0) + numbers.length - 1) % numbers.length])
                        }
                      >
                        <ChevronLeft size={14} />
                      </SignButton>
                      <SignButton
                        label={`The next place: ${name}`}
                        className="size-7!"
                        onClick={() => show(numbers[(here + 1) % numbers.length])}
                      >
                        <ChevronRight size={14} />
                      </SignButton>
                    </>
                  )}
                </div>
                {here >= 0 && looked && stop !== "Prove" && (
                  <p className="text-soft px-1.5 pb-1.5 text-[12.5px]">{troubleWords(looked, mm).why}</p>
                )}
                {mend && (here >= 0 || !many) && (
                  <Button
                    className="mb-1.5 ml-1.5 h-7!"
                    aria-label={`${mend.words}: ${name}`}
                    onClick={() => {
                      setTrouble(null);
                      commit(proposed(mend.edit));
                    }}
                  >
                    {mend.words}
                  </Button>
                )}
              </li>
            );
          })}
        </ul>
      )}
    </Section>
  );
}

function byKind(troubles: readonly Placed[]): Kind[] {
  const kinds = new Map<Placed["kind"], number[]>();
  troubles.forEach(({ kind }, number) => kinds.set(kind, [...(kinds.get(kind) ?? []), number]));
  return [...kinds].map(([kind, numbers]) => ({ kind, numbers }));
}
