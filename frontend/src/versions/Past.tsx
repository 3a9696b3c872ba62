import { ChevronDown, ChevronRight, Flag } from "lucide-react";
import { useState } from "react";

import type { Piece } from "../api/client";
import { Choice } from "../ui/fields";
import type { Line, Step, VersionList } from "./useVersions";
import { dayOf, lineInWords, timeOf } from "./words";

const WHERE = { past: "", ahead: "undone", aside: "left aside" } as const;

type Props = {
  piece: Piece;
  versions: VersionList;
  chosen: number;
  onChoose: (revision: number) => void;
};

/** Every step that was made, the newest first, by days; small steps of one kind are one line that opens. */
export function Past({ piece, versions, chosen, onChoose }: Props) {
  const [which, setWhich] = useState<"all" | "named">("all");
  const lines =
    which === "all" ? versions.lines : versions.lines.filter((line) => line.steps.some((s) => s.name));
  const days = byDay(lines);
  return (
    <nav aria-label="Versions" className="border-rule flex min-h-0 flex-col border-r">
      <div className="border-rule border-b px-4 py-3">
        <Choice
          label="Which versions"
          value={which}
          options={[
            { value: "all", name: "All" },
            { value: "named", name: "Named" },
          ]}
          onChange={setWhich}
        />
      </div>
      <div className="min-h-0 grow overflow-y-auto px-2 pb-6">
        {days.length === 0 && (
          <p className="text-soft px-3 py-6">
            No version has a name yet. Choose one and name it: it is kept for good.
          </p>
        )}
        {days.map(({ day, lines: ofDay }) => (
          <section key={day}>
            <h2 className="bg-paper sticky top-0 z-10 px-2 pt-4 pb-1 text-[15px]">{day}</h2>
            <ul>
              {ofDay.map((line) => (
                <LineRow
                  key={line.steps[0]?.revision}
                  piece={piece}
                  line={line}
                  shown={versions.shown}
                  chosen={chosen}
                  onChoose={onChoose}
                />
              ))}
            </ul>
          </section>
        ))}
      </div>
    </nav>
  );
}

function LineRow({
  piece,
  line,
  shown,
  chosen,
  onChoose,
}: {
  piece: Piece;
  line: Line;
  shown: number;
  chosen: number;
  onChoose: (revision: number) => void;
}) {
  const [open, setOpen] = useState(false);
  const [last] = line.steps;
  if (!last) return null;
  const several = line.steps.length > 1;
  const within = line.steps.some((s) => s.revision === chosen);
  return (
    <li className="[contain-intrinsic-size:auto_58px] [content-visibility:auto]">
      <div className={`flex items-center rounded-md ${within && !open ? "bg-act-wash" : ""}`}>
        <StepButton
          piece={piece}
          step={last}
          words={lineInWords(line.told, last.more, piece.document.units)}
          note={last.revision === shown ? "now" : WHERE[line.where]}
          chosen={within && !open}
          picture
          onChoose={onChoose}
        />
        {several && (
          <button
            type="button"
            aria-expanded={open}
            aria-label={`${line.steps.length} steps`}
            title={`${line.steps.length} steps`}
            onClick={() => setOpen(!open)}
            className="text-soft hover:text-ink flex h-8 shrink-0 items-center rounded-md px-1 text-xs tabular-nums"
          >
            {line.steps.length}
            {open ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden />}
          </button>
        )}
      </div>
      {open && (
        <ul className="border-rule ml-8 border-l pl-1">
          {line.steps.map((step) => (
            <li key={step.revision} className={step.revision === chosen ? "bg-act-wash rounded-md" : ""}>
              <StepButton
                piece={piece}
                step={step}
                words={lineInWords(step.told, step.more, piece.document.units)}
                note={step.revision === shown ? "now" : ""}
                chosen={step.revision === chosen}
                onChoose={onChoose}
              />
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function StepButton({
  piece,
  step,
  words,
  note,
  chosen,
  picture = false,
  onChoose,
}: {
  piece: Piece;
  step: Step;
  words: string;
  note: string;
  chosen: boolean;
  picture?: boolean;
  onChoose: (revision: number) => void;
}) {
  return (
    <button
      type="button"
      aria-current={chosen ? "true" : undefined}
      onClick={() => onChoose(step.revision)}
      className="hover:bg-act-wash flex min-w-0 grow items-center gap-3 rounded-md px-2 py-1.5 text-left"
    >
      {picture && (
        <span className="border-rule bg-sheet grid size-11 shrink-0 place-items-center overflow-hidden rounded border">
          <img
            src={`/api/pieces/${piece.id}/picture/${step.revision}`}
            alt=""
            loading="lazy"
            className="max-h-full max-w-full"
          />
        </span>
      )}
      <span className="min-w-0 grow">
        {step.name && (
          <span className="flex items-center gap-1 font-semibold">
            <Flag size={12} aria-label="Named" className="text-act shrink-0" />
            <span className="truncate">{step.name}</span>
          </span>
        )}
        <span className={`line-clamp-2 leading-tight ${step.name ? "text-soft text-[12.5px]" : ""}`}>
          {words}
        </span>
        <span className="text-soft text-xs tabular-nums">
          {timeOf(step.made)}
          {step.by && <> · {step.by}</>}
          {note && <> · {note}</>}
        </span>
      </span>
    </button>
  );
}

function byDay(lines: readonly Line[]): { day: string; lines: Line[] }[] {
  const days: { day: string; lines: Line[] }[] = [];
  for (const line of lines) {
    const day = dayOf(line.steps[0]?.made ?? "");
    if (days.at(-1)?.day === day) days.at(-1)?.lines.push(line);
    else days.push({ day, lines: [line] });
  }
  return days;
}
