import { Asterisk, FlipHorizontal2, Droplets, PenLine, Type } from "lucide-react";

import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN } from "../../../ui/fields";
import { useDocument, useUnits } from "../../select";
import { putForm, putRound, type Extent } from "../../shape/forms";
import { useShape, type LineKind, type ShapeForm } from "../../shape/state";
import { useItems, usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { lengths, Fold, Section } from "../parts";
import { Cabinet } from "../Cabinet";
import { DrawingIn } from "./DrawingIn";
import { ExactLine } from "./ExactLine";
import { Shelf } from "./Shelf";
import { Tools } from "./Tools";
import { WordsRead } from "./WordsRead";

const KINDS: readonly { value: LineKind; name: string }[] = [
  { value: "straight", name: "straight" },
  { value: "through", name: "curve" },
  { value: "control", name: "pulled" },
  { value: "arc", name: "arc" },
];
const KIND_WORDS: Record<LineKind, string> = {
  straight: "From click to click.",
  through: "A smooth curve through every click.",
  control: "Every click pulls the curve towards itself.",
  arc: "Two clicks: one the arc passes, then its end.",
};
const FORMS: readonly { value: ShapeForm; name: string }[] = [
  { value: "circle", name: "circle" },
  { value: "ring", name: "ring" },
  { value: "ellipse", name: "ellipse" },
  { value: "rectangle", name: "rectangle" },
  { value: "polygon", name: "polygon" },
  { value: "star", name: "star" },
];

/** The first shape on an empty sheet, mm: in the middle of what is seen of it. */
const FIRST: Extent = { at: [50, 40], width: 40, height: 40 };

export function DrawPart() {
  return (
    <>
      <Section name="Words">
        <Tools tools={[{ tool: "words", name: "Set words", sign: <Type size={14} aria-hidden /> }]} />
        <WordsRead />
      </Section>
      <Lines />
      <Forms />
      <Pouring />
      <Repeat />
      <DrawingIn />
      <Cabinet />
      <Shelf />
    </>
  );
}

function Lines() {
  const kind = useShape((s) => s.lineKind);
  const drawing = useBench((s) => s.tool === "line");
  const { set } = useShape.getState();
  return (
    <Section name="Lines">
      <div className="mb-1.5">
        <Choice
          label="Kind of line"
          value={kind}
          options={KINDS}
          onChange={(next) => set({ lineKind: next })}
        />
        <p className="text-soft mt-1 text-[12.5px]">{KIND_WORDS[kind]}</p>
      </div>
      <Tools tools={[{ tool: "line", name: "Draw a line", sign: <PenLine size={14} aria-hidden /> }]} />
      {drawing && <ExactLine />}
    </Section>
  );
}

function Forms() {
  const form = useShape((s) => s.form);
  const margin = useShape((s) => s.margin);
  const { set } = useShape.getState();
  const units = useUnits();
  const items = useItems();
  const picked = usePicked();
  const round = picked.length ? picked : items;
  return (
    <Section name="Shapes">
      <div className="mb-1.5 space-y-1.5">
        <Choice
          label="Shape"
          value={form}
          options={FORMS.slice(0, 3)}
          onChange={(next) => set({ form: next })}
        />
        <Choice
          label="Shape, more"
          value={form}
          options={FORMS.slice(3)}
          onChange={(next) => set({ form: next })}
        />
      </div>
      <div className="space-y-1.5">
        <Tools tools={[{ tool: "form", name: "Drag it out" }]} />
        <Button
          className="w-full"
          title={round.length ? "Encloses it wholly and lies beneath it" : undefined}
          onClick={() => (round.length ? putRound(form, round, margin) : putForm(form, FIRST))}
        >
          {picked.length
            ? "Put it round the pick"
            : items.length
              ? "Put it round everything"
              : "Put it on the sheet"}
        </Button>
        <NumberField
          label="Margin round it"
          notation={lengths(units)}
          value={margin}
          min={0}
          max={500}
          step={0.5}
          onCommit={(mm) => set({ margin: mm })}
        />
      </div>
    </Section>
  );
}

function Pouring() {
  const gap = useShape((s) => s.gap);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Fold name="Pour" side="fill what lines enclose">
      <div className="space-y-1.5">
        <NumberField
          label="Close gaps up to"
          notation={lengths(units)}
          value={gap}
          min={0}
          max={20}
          step={0.1}
          onCommit={(mm) => set({ gap: mm })}
        />
        <Tools tools={[{ tool: "pour", name: "Pour", sign: <Droplets size={14} aria-hidden /> }]} />
      </div>
    </Fold>
  );
}

function Repeat() {
  const symmetry = useDocument()?.symmetry;
  const { commit } = useBench.getState();
  return (
    <Fold
      name="Mirror or repeat"
      side={symmetry ? (symmetry.kind === "mirror" ? "mirrored" : "turned") : "off"}
    >
      <Tools
        tools={[
          { tool: "mirror-line", name: "Mirror line", sign: <FlipHorizontal2 size={14} aria-hidden /> },
          { tool: "turn-centre", name: "Around a point", sign: <Asterisk size={14} aria-hidden /> },
        ]}
      />
      {symmetry && (
        <div className="mt-1.5 space-y-1.5">
          {symmetry.kind === "turn" && (
            <NumberField
              label="Times"
              notation={PLAIN}
              value={symmetry.count}
              min={2}
              max={60}
              step={1}
              onCommit={(count) =>
                commit({ do: "set-symmetry", symmetry: { ...symmetry, count: Math.round(count) } })
              }
            />
          )}
          <Button className="w-full" onClick={() => commit({ do: "set-symmetry", symmetry: null })}>
            Stop repeating
          </Button>
        </div>
      )}
    </Fold>
  );
}
