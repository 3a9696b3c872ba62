import { Asterisk, FlipHorizontal2, Droplets, PenLine, Type } from "lucide-react";
import { useState } from "react";

import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN } from "../../../ui/fields";
import { parseLength } from "../../../ui/length";
import { useDocument, useUnits } from "../../select";
import { contoursOf } from "../../shape/contours";
import { putForm } from "../../shape/FormTool";
import { addPoint, closeLine, useLine } from "../../shape/LineTool";
import { boxOf } from "../../shape/objects";
import { direction } from "../../shape/snaps";
import { useShape, type LineKind, type ShapeForm } from "../../shape/state";
import { useItems, usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { lengths, Section } from "../parts";
import { DrawingIn } from "./DrawingIn";
import { Shelf } from "./Shelf";
import { Tools } from "./Tools";
import { WordsRead } from "./WordsRead";

const KINDS: readonly { value: LineKind; name: string }[] = [
  { value: "straight", name: "straight" },
  { value: "through", name: "through" },
  { value: "control", name: "control" },
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

/** How wide the band of a ring round something is, mm. */
const RING = 5;

export function DrawPart() {
  return (
    <>
      <Lines />
      <Forms />
      <Section name="Words">
        <Tools tools={[{ tool: "words", name: "Set words", sign: <Type size={14} aria-hidden /> }]} />
        <WordsRead />
      </Section>
      <Pouring />
      <Repeat />
      <DrawingIn />
      <Shelf />
    </>
  );
}

function Lines() {
  const kind = useShape((s) => s.lineKind);
  const along = useShape((s) => s.along);
  const { set } = useShape.getState();
  const units = useUnits();
  const picked = usePicked();
  const [length, setLength] = useState("");
  const [way, setWay] = useState("");
  const line = useLine();
  const last = line ? (line.stretches.at(-1)?.to ?? line.start) : null;
  const guide = picked.length === 1 ? longest(picked[0]?.path ?? "") : null;
  const mm = parseLength(length, units);
  const angle = along ?? (way.trim() ? direction(way) : null);
  const setPoint = () => {
    if (!last || mm === null || angle === null) return;
    // On the sheet y points down; a typed angle turns up from the right.
    const turn = along ?? -angle;
    addPoint([last[0] + mm * Math.cos(turn), last[1] + mm * Math.sin(turn)], "straight", null);
    setLength("");
  };
  return (
    <Section name="Lines" side={KIND_WORDS[kind]}>
      <div className="mb-1.5">
        <Choice
          label="Kind of line"
          value={kind}
          options={KINDS}
          onChange={(next) => set({ lineKind: next })}
        />
      </div>
      <Tools tools={[{ tool: "line", name: "Draw a line", sign: <PenLine size={14} aria-hidden /> }]} />
      {line && (
        <div className="border-rule mt-2 space-y-1.5 border-l-2 pl-2">
          <Typed label="Length" value={length} onChange={setLength} onEnter={setPoint} hint="12.5" />
          {along === null ? (
            <Typed label="Angle or slope" value={way} onChange={setWay} onEnter={setPoint} hint="30 or 1/4" />
          ) : (
            <p className="flex items-center justify-between">
              Keeps a direction
              <button type="button" className="text-act font-semibold" onClick={() => set({ along: null })}>
                let go
              </button>
            </p>
          )}
          {guide !== null && along === null && (
            <div className="grid grid-cols-2 gap-1.5">
              <Button onClick={() => set({ along: guide })}>Parallel</Button>
              <Button onClick={() => set({ along: guide + Math.PI / 2 })}>Upright to it</Button>
            </div>
          )}
          <div className="grid grid-cols-2 gap-1.5">
            <Button disabled={mm === null || angle === null} onClick={setPoint}>
              Set point
            </Button>
            <Button onClick={closeLine}>Close</Button>
          </div>
        </div>
      )}
    </Section>
  );
}

/** Direction (radians on the sheet) of the longest straight segment of an outline. */
function longest(path: string): number | null {
  let best: number | null = null;
  let most = 0;
  for (const { segments } of contoursOf(path))
    for (const { points, straight } of segments) {
      const [dx, dy] = [points[3][0] - points[0][0], points[3][1] - points[0][1]];
      if (straight && Math.hypot(dx, dy) > most) {
        most = Math.hypot(dx, dy);
        best = Math.atan2(dy, dx);
      }
    }
  return best;
}

function Typed({
  label,
  value,
  hint,
  onChange,
  onEnter,
}: {
  label: string;
  value: string;
  hint: string;
  onChange: (text: string) => void;
  onEnter: () => void;
}) {
  return (
    <label className="grid grid-cols-[1fr_104px] items-center gap-x-2">
      {label}
      <input
        className="bg-sheet border-hair focus:border-act h-8 w-full min-w-0 rounded-md border px-2 outline-none"
        value={value}
        placeholder={hint}
        onChange={(event) => onChange(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && onEnter()}
      />
    </label>
  );
}

function Forms() {
  const form = useShape((s) => s.form);
  const { set } = useShape.getState();
  const items = useItems();
  const picked = usePicked();
  const middle = () => {
    const box = boxOf(picked.length ? picked : items) ?? { x: 0, y: 0, width: 0, height: 0 };
    const size = Math.max(Math.hypot(box.width, box.height) * 1.1, 20);
    const wide = Math.round(form === "rectangle" || form === "ellipse" ? Math.max(box.width + 10, 20) : size);
    const high = Math.round(
      form === "rectangle" || form === "ellipse" ? Math.max(box.height + 10, 20) : size,
    );
    const at: [number, number] = [box.x + box.width / 2, box.y + box.height / 2];
    // A ring goes round with its inner circle.
    if (form === "ring") putForm(form, at, [wide + 2 * RING, high + 2 * RING], wide);
    else putForm(form, at, [wide, high]);
  };
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
      <div className="grid grid-cols-2 gap-1.5">
        <Tools tools={[{ tool: "form", name: "Drag it out" }]} />
        <Button className="px-1! text-[12.5px]" onClick={middle}>
          {picked.length ? "Round the pick" : "Round it all"}
        </Button>
      </div>
    </Section>
  );
}

function Pouring() {
  const gap = useShape((s) => s.gap);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Section name="Pour" side="what lines enclose">
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
    </Section>
  );
}

function Repeat() {
  const symmetry = useDocument()?.symmetry;
  const { commit } = useBench.getState();
  return (
    <Section
      name="Repeat as you draw"
      side={symmetry ? (symmetry.kind === "mirror" ? "mirrored" : "turned") : "off"}
    >
      <Tools
        tools={[
          { tool: "mirror-line", name: "Mirror line", sign: <FlipHorizontal2 size={14} aria-hidden /> },
          { tool: "turn-centre", name: "Round a point", sign: <Asterisk size={14} aria-hidden /> },
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
            Draw without it
          </Button>
        </div>
      )}
    </Section>
  );
}
