import * as ToggleGroup from "@radix-ui/react-toggle-group";

import type { Flat, Picture } from "../../../api/client";
import { useWay } from "../../useLookOver";
import { SmallTrace } from "./SmallTrace";

type Mode = Picture["trace"]["mode"];

const WAYS: readonly { value: Mode; name: string; meaning: string }[] = [
  { value: "ink", name: "Ink", meaning: "Dark shapes on a light ground." },
  {
    value: "colours",
    name: "Colours",
    meaning: "Each flat colour becomes outlines; neighbours share their edges.",
  },
  { value: "strokes", name: "Strokes", meaning: "The lines of a drawing, each with its width." },
];

/** The three ways to trace, each as a small picture of what it really gives. */
export function Ways({ mode, onChange }: { mode: Mode; onChange: (mode: Mode) => void }) {
  return (
    <>
      <ToggleGroup.Root
        type="single"
        aria-label="Trace as"
        value={mode}
        onValueChange={(next) => next && onChange(next as Mode)}
        className="grid grid-cols-3 gap-1.5"
      >
        {WAYS.map((way) => (
          <ToggleGroup.Item
            key={way.value}
            value={way.value}
            aria-label={way.name}
            className="border-hair bg-sheet hover:bg-act-wash data-[state=on]:border-ink data-[state=on]:ring-ink rounded-md border p-1 data-[state=on]:ring-1"
          >
            <Small mode={way.value} />
            <span className="block pt-0.5 text-[12.5px]">{way.name}</span>
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      <p className="text-soft pt-1 text-xs">{WAYS.find((way) => way.value === mode)?.meaning}</p>
    </>
  );
}

function Small({ mode }: { mode: Mode }) {
  const { flat, nothing } = useWay(mode);
  if (flat) return <SmallTrace flat={framed(flat)} label="" className="h-16 w-full" />;
  return (
    <span className="text-soft grid h-16 place-items-center text-[11px]" aria-hidden>
      {nothing ? "nothing" : "…"}
    </span>
  );
}

/** A little room round what was traced, so that its outline is not cut off. */
function framed(flat: Flat): Flat {
  const room = 0.02 * Math.max(flat.width, flat.height);
  return {
    ...flat,
    left: flat.left - room,
    top: flat.top - room,
    width: flat.width + 2 * room,
    height: flat.height + 2 * room,
  };
}
