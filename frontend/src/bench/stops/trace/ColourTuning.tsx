import { Layers, Merge, Pipette, Trash2 } from "lucide-react";
import { useState } from "react";

import { Button, ToolButton } from "../../../ui/Button";
import { PLAIN, SliderField } from "../../../ui/fields";
import { useBench } from "../../store";
import { Section } from "../parts";
import { Specks } from "./InkTuning";
import { KeptPalettes, TypedColour } from "./Palettes";
import { groupsOf, type Swatch } from "./groups";
import { found, useTrace } from "./settings";

const FEWEST = 2;
const MOST = 24;

/** The colours that were found: how many, which is no shape, which are one, which go. */
export function ColourTuning() {
  const { trace, kept, now, preview, commit } = useTrace();
  const picking = useBench((s) => s.tool === "colour");
  const setTool = useBench((s) => s.setTool);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  if (!trace) return null;
  const swatches = trace.swatches;
  const there = chosen.filter((c) => swatches.some((s) => s.colour === c));
  const groups = groupsOf(kept?.palette, swatches);
  const toggle = (colour: string) =>
    setChosen(there.includes(colour) ? there.filter((c) => c !== colour) : [...there, colour]);
  const regroup = (palette: string[][]) => {
    setChosen([]);
    commit({ palette });
  };
  const merge = () => {
    const one = groups.filter((g) => g.some((c) => there.includes(c)));
    regroup([one.flat(), ...groups.filter((g) => !one.includes(g))]);
  };
  const drop = () => regroup(groups.filter((g) => !g.some((c) => there.includes(c))));
  const left = groups.length - groups.filter((g) => g.some((c) => there.includes(c))).length;
  return (
    <Section
      name="Colours"
      side={
        kept?.palette || kept?.background ? (
          <button
            type="button"
            className="text-act text-xs font-semibold hover:underline"
            onClick={() => commit({ palette: null, background: null })}
          >
            find them again
          </button>
        ) : found(now.colours) ? (
          "from the picture"
        ) : undefined
      }
    >
      {!kept?.palette && (
        <SliderField
          label="How many"
          value={now.colours ?? swatches.length}
          notation={PLAIN}
          min={FEWEST}
          max={MOST}
          sliderMax={12}
          step={1}
          onPreview={(colours) => preview({ colours: Math.round(colours) })}
          onCommit={(colours) => commit({ colours: Math.round(colours) })}
          onReset={kept?.colours ? () => commit({ colours: null }) : undefined}
          resetName="find it"
        >
          the background is one of them
        </SliderField>
      )}
      <ul aria-label="Colours of the picture" className="border-rule my-1 border-t">
        {swatches.map((swatch) => (
          <SwatchRow
            key={swatch.colour + String(swatch.clear)}
            swatch={swatch}
            picked={there.includes(swatch.colour)}
            onPick={() => toggle(swatch.colour)}
          />
        ))}
      </ul>
      <div className="grid grid-cols-[1.5fr_1fr_1fr] gap-1.5 py-1">
        <Button
          className="px-1! text-[12.5px]"
          disabled={there.length !== 1}
          onClick={() => {
            setChosen([]);
            commit({ background: there[0] ?? null });
          }}
        >
          <Layers size={14} aria-hidden /> Background
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={there.length < 2 || left + 1 < FEWEST}
          onClick={merge}
        >
          <Merge size={14} aria-hidden /> Merge
        </Button>
        <Button className="px-1! text-[12.5px]" disabled={there.length < 1 || left < FEWEST} onClick={drop}>
          <Trash2 size={14} aria-hidden /> Drop
        </Button>
      </div>
      <ToolButton
        className="mb-1 w-full"
        aria-pressed={picking}
        disabled={groups.length >= MOST}
        onClick={() => setTool(picking ? null : "colour")}
      >
        <Pipette size={14} aria-hidden /> Add one from the picture
      </ToolButton>
      <TypedColour
        disabled={groups.length >= MOST}
        onAdd={(colour) => {
          if (!groups.some((g) => g.includes(colour))) regroup([...groups, [colour]]);
        }}
      />
      <p className="text-soft pb-1 text-xs">
        {there.length === 0
          ? "Pick colours to merge them, drop them or name the background."
          : `${there.length} picked. What is dropped goes to the nearest colour.`}
      </p>
      <KeptPalettes now={groups} onUse={regroup} />
      <FilamentsOfColours swatches={swatches} />
      <Specks />
    </Section>
  );
}

function SwatchRow({ swatch, picked, onPick }: { swatch: Swatch; picked: boolean; onPick: () => void }) {
  const name = swatch.clear ? "see-through" : swatch.colour;
  return (
    <li className="border-rule border-b">
      <button
        type="button"
        aria-pressed={picked}
        disabled={swatch.clear}
        aria-label={`${name}${swatch.background ? ", background" : ""}`}
        onClick={onPick}
        className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 w-full items-center gap-2 px-1 text-left"
      >
        <span
          aria-hidden
          className="border-hair size-5 shrink-0 rounded-[4px] border"
          style={{
            background: swatch.clear
              ? "repeating-conic-gradient(#bbb 0 25%, #fff 0 50%) 0/8px 8px"
              : swatch.colour,
          }}
        />
        <span className="grow">{name}</span>
        {swatch.background && <span className="text-soft text-xs">background</span>}
        <span className="text-soft w-12 text-right">{percentOf(swatch.share)}</span>
      </button>
    </li>
  );
}

/** Filaments of the colours themselves, instead of the nearest that the piece has. */
function FilamentsOfColours({ swatches }: { swatches: readonly Swatch[] }) {
  const document = useBench((s) => s.piece?.document);
  const commit = useBench((s) => s.commit);
  const spools = document?.filaments ?? [];
  const missing = swatches.filter(
    (s) => !s.background && !s.clear && !spools.some((f) => f.colour === s.colour),
  );
  if (!missing.length) return null;
  return (
    <Button
      className="w-full"
      onClick={() =>
        missing.forEach((s) =>
          commit({ do: "set-filament", id: `c${s.colour.slice(1)}`, name: s.colour, colour: s.colour }),
        )
      }
    >
      Make filaments of these colours
    </Button>
  );
}

function percentOf(share: number): string {
  const percent = share * 100;
  return percent < 0.1 ? "< 0.1 %" : `${percent.toFixed(percent < 10 ? 1 : 0)} %`;
}
