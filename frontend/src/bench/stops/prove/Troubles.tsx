import { ChevronLeft, ChevronRight } from "lucide-react";

import { Button, SignButton } from "../../../ui/Button";
import { useProve, type Trouble } from "../../prove/state";
import { useRehearsal } from "../../prove/useRehearsal";
import { troubleWords } from "../../prove/words";
import { mendOf } from "../../prove/mends";
import { useDocument, useShown, useUnits } from "../../select";
import { useBench } from "../../store";
import { useWeakSpots } from "../raise/useWeakSpots";
import { lengths, Section } from "../parts";

type Kind = { kind: Trouble["kind"]; numbers: number[] };

/** What will not print as it is drawn, measured on the layers: kind by kind, each place in turn. */
export function Troubles() {
  const { data: rehearsed } = useRehearsal();
  const at = useProve((s) => s.trouble);
  const units = useUnits();
  const document = useDocument();
  const flat = useShown();
  const places = useWeakSpots();
  const { commit } = useBench.getState();
  const { setTrouble, setLayer, setPlaying } = useProve.getState();
  const troubles = rehearsed?.report.troubles;
  if (!troubles) return null;
  const notation = lengths(units);
  const mm = (value: number) => `${notation.format(value)} ${notation.unit}`;
  const show = (number: number | undefined) => {
    const trouble = troubles[number ?? -1];
    if (!trouble || number === undefined) return;
    setPlaying(false);
    setLayer(trouble.first - 1);
    setTrouble(number);
  };
  return (
    <Section name="What won’t print" side={troubles.length ? String(troubles.length) : "nothing"}>
      {troubles.length === 0 && (
        <p className="text-soft text-xs">Every part has its lines, stands on something and fits the bed.</p>
      )}
      {troubles.length > 0 && (
        <ul aria-label="What won’t print" className="border-rule border-t">
          {byKind(troubles).map(({ kind, numbers }) => {
            const here = at === null ? -1 : numbers.indexOf(at);
            const first = troubles[numbers[0] ?? 0];
            if (!first) return null;
            const { name } = troubleWords(first, mm);
            const many = numbers.length > 1;
            const picked = at !== null && here >= 0 ? troubles[at] : undefined;
            const mend =
              picked && document && flat
                ? mendOf(picked, rehearsed.report, document, flat, places ?? [])
                : null;
            return (
              <li key={kind} className="border-rule flex flex-wrap items-center border-b">
                <button
                  type="button"
                  aria-pressed={here >= 0}
                  onClick={() => (here >= 0 && !many ? setTrouble(null) : show(numbers[Math.max(here, 0)]))}
                  className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 min-w-0 grow items-center justify-between gap-2 px-1.5 text-left"
                >
                  <span className="truncate">{name}</span>
                  <span className="text-soft shrink-0 text-xs tabular-nums">
                    {many
                      ? here >= 0
                        ? `${here + 1} of ${numbers.length}`
                        : `${numbers.length} places`
                      : `layer ${first.first}`}
                  </span>
                </button>
                {many && (
                  <>
                    <SignButton
                      label={`The place before: ${name}`}
                      className="size-7!"
                      onClick={() => show(numbers[(Math.max(here, 0) + numbers.length - 1) % numbers.length])}
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
                {mend && (
                  <Button
                    className="mb-1.5 ml-1.5 h-7!"
                    onClick={() => {
                      setTrouble(null);
                      commit(mend.edit);
                    }}
                  >
                    {mend.name}
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

function byKind(troubles: readonly Trouble[]): Kind[] {
  const kinds = new Map<Trouble["kind"], number[]>();
  troubles.forEach(({ kind }, number) => kinds.set(kind, [...(kinds.get(kind) ?? []), number]));
  return [...kinds].map(([kind, numbers]) => ({ kind, numbers }));
}
