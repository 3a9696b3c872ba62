import { Pipette } from "lucide-react";
import { useState } from "react";

import { ToolButton } from "../../../ui/Button";
import { usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { Section } from "../parts";

/** The colour of drawn things: typed, or taken from the picture. Their filament is the one nearest to it. */
export function ColourOfPick() {
  const things = usePicked().flatMap((item) => (item.thing ? [item.thing] : []));
  const pictured = useBench((s) => Boolean(s.piece?.document.pictures.length));
  const tool = useBench((s) => s.tool);
  const { commit, setTool } = useBench.getState();
  const [drafted, setDrafted] = useState<string | null>(null);
  if (!things.length) return null;
  const ids = things.map((t) => t.id);
  const fill = things.every((t) => t.fill === things[0]?.fill) ? things[0]?.fill : null;
  const set = (colour: string) => commit({ do: "mark-drawn", ids, fill: colour });
  return (
    <Section name="Colour" side={fill ?? "none of its own"}>
      <div className="grid grid-cols-[44px_1fr_auto] items-center gap-1.5">
        <input
          type="color"
          aria-label="Colour"
          value={drafted ?? fill ?? "#888888"}
          className="border-hair bg-sheet h-8 w-11 cursor-pointer rounded-md border p-0.5"
          onChange={(event) => setDrafted(event.target.value)}
          onBlur={() => {
            if (drafted && drafted !== fill) set(drafted);
            setDrafted(null);
          }}
        />
        <ToolButton
          aria-pressed={tool === "fill-colour"}
          disabled={!pictured}
          title={pictured ? undefined : "The piece has no picture"}
          onClick={() => setTool(tool === "fill-colour" ? null : "fill-colour")}
        >
          <Pipette size={14} aria-hidden /> From the picture
        </ToolButton>
        <button
          type="button"
          disabled={!fill}
          className="text-act px-1 text-xs font-semibold hover:underline disabled:opacity-40"
          onClick={() => set("none")}
        >
          clear
        </button>
      </div>
    </Section>
  );
}
