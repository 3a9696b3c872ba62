import { BookmarkPlus, Plus, X } from "lucide-react";
import { useState } from "react";

import { Button } from "../../../ui/Button";
import { recalled, remember } from "../../remembered";

export type Groups = readonly (readonly string[])[];

const KEY = "palettes";
const MOST_KEPT = 12;
const COLOUR = /^#?([0-9a-f]{6}|[0-9a-f]{3})$/i;

/** A typed colour as #rrggbb; null where it is none. */
export function colourOf(text: string): string | null {
  const digits = COLOUR.exec(text.trim())?.[1]?.toLowerCase();
  if (!digits) return null;
  return `#${digits.length === 3 ? [...digits].map((d) => d + d).join("") : digits}`;
}

/** One more colour by its number, such as a filament's. */
export function TypedColour({ disabled, onAdd }: { disabled: boolean; onAdd: (colour: string) => void }) {
  const [text, setText] = useState("");
  const colour = colourOf(text);
  return (
    <form
      className="flex gap-1.5 pb-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (!colour || disabled) return;
        onAdd(colour);
        setText("");
      }}
    >
      <input
        aria-label="Colour to add"
        aria-invalid={text !== "" && !colour}
        placeholder="#c8553d"
        value={text}
        onChange={(event) => setText(event.target.value)}
        className="border-hair bg-sheet h-8 min-w-0 grow rounded-md border px-2"
      />
      <Button type="submit" disabled={!colour || disabled}>
        <Plus size={14} aria-hidden /> Add
      </Button>
    </form>
  );
}

/** Palettes that this browser keeps: the one in use is kept, and others are used again. */
export function KeptPalettes({ now, onUse }: { now: Groups; onUse: (groups: string[][]) => void }) {
  const [kept, setKept] = useState(() => recalled<Groups[]>(KEY, []));
  const put = (palettes: Groups[]) => {
    setKept(palettes);
    remember(KEY, palettes);
  };
  const same = (one: Groups) => JSON.stringify(one) === JSON.stringify(now);
  return (
    <div className="pb-1">
      <Button
        className="w-full"
        disabled={now.length < 2 || kept.some(same)}
        onClick={() => put([now, ...kept].slice(0, MOST_KEPT))}
      >
        <BookmarkPlus size={14} aria-hidden /> Keep this palette
      </Button>
      {kept.length > 0 && (
        <ul aria-label="Kept palettes" className="border-rule mt-1 border-t">
          {kept.map((groups) => (
            <li key={JSON.stringify(groups)} className="border-rule flex items-center border-b">
              <button
                type="button"
                aria-label={`Use ${groups.map((group) => group[0]).join(", ")}`}
                aria-pressed={same(groups)}
                onClick={() => onUse(groups.map((group) => [...group]))}
                className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 grow items-center gap-0.5 px-1"
              >
                {groups.map((group) => (
                  <span
                    key={group[0]}
                    aria-hidden
                    className="border-hair size-4 rounded-[3px] border"
                    style={{ background: group[0] }}
                  />
                ))}
              </button>
              <button
                type="button"
                aria-label={`Remove ${groups.map((group) => group[0]).join(", ")}`}
                onClick={() => put(kept.filter((other) => other !== groups))}
                className="text-soft hover:text-ink grid size-8 place-items-center"
              >
                <X size={14} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
