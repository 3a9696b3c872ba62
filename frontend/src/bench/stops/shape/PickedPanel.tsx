import { useId, useLayoutEffect, useRef, useState } from "react";

import { api, data } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN, SwitchField, type Notation } from "../../../ui/fields";
import { parseNumber, trimmed } from "../../../ui/length";
import { useNotices } from "../../../ui/notices";
import { useShown, useUnits } from "../../select";
import type { NewThing, Thing } from "../../shape/objects";
import { useShape } from "../../shape/state";
import { useFonts } from "../../shape/useFonts";
import { usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { lengths, Section } from "../parts";

type Lettering = Extract<Thing, { kind: "lettering" }>;
type Words = Extract<NewThing, { kind: "lettering" }>;
type Form = Extract<Thing, { kind: "shape" }>;

/** A share such as `0.8` or `2/3`. */
const ASPECT: Notation = { parse: parseNumber, format: (value) => trimmed(value, 3), unit: "×" };

/** Numbers of the one shape or lettering that is picked; words that were just set are typed over at once. */
export function PickedPanel() {
  const picked = usePicked();
  const fresh = useShape((s) => s.fresh);
  const thing = picked.length === 1 ? picked[0]?.thing : null;
  if (thing?.kind === "shape") return <FormNumbers thing={thing} />;
  const words = thing?.kind === "lettering" ? thing : picked.length === 0 ? fresh : null;
  if (!words) return null;
  return (
    <Section name="Words" side="they stay text">
      <WordsField key={words.id} words={words} />
      {thing?.kind === "lettering" && <LetteringNumbers thing={thing} />}
    </Section>
  );
}

/** The words themselves. What is typed is seen at once, and kept when the field is left. */
function WordsField({ words }: { words: Words }) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const area = useRef<HTMLTextAreaElement>(null);
  useLayoutEffect(() => {
    if (useShape.getState().fresh?.id !== words.id) return;
    area.current?.focus();
    area.current?.select();
  }, [words.id]);
  return (
    <>
      <label htmlFor={id} className="sr-only">
        Text
      </label>
      <textarea
        id={id}
        ref={area}
        rows={2}
        maxLength={400}
        value={draft ?? words.text}
        data-draft={draft !== null || undefined}
        className="bg-sheet border-hair focus:border-act mb-1.5 w-full rounded-md border px-2 py-1 outline-none"
        onChange={(event) => {
          const text = event.target.value;
          setDraft(text);
          if (text.trim() && isThere(words)) preview({ ...words, text });
        }}
        onBlur={() => {
          useShape.getState().set({ fresh: null });
          if (draft?.trim() && draft !== words.text) change(words, { text: draft });
          setDraft(null);
        }}
      />
    </>
  );
}

/** Whether the piece has a thing already; until then there is nothing to preview a change on. */
const isThere = (thing: { id: string }): boolean =>
  useBench.getState().piece?.document.drawn.some((t) => t.id === thing.id) ?? false;

/** Changes a thing as it stands when the changes before it are made: one field is left for the next at any pace. */
const change = <T extends NewThing>(thing: T, given: Partial<T>) =>
  useBench.getState().commit((document) => {
    const now = document.drawn.find((t) => t.id === thing.id) ?? thing;
    return { do: "put-drawn", things: [{ ...now, ...given } as T] };
  });
const preview = (thing: NewThing) => useBench.getState().previewEdit({ do: "put-drawn", things: [thing] });

function FormNumbers({ thing }: { thing: Form }) {
  const units = useUnits();
  const field = (label: string, name: "width" | "height" | "inner" | "radius", min = 0.1) => (
    <NumberField
      key={label}
      label={label}
      notation={lengths(units)}
      value={thing[name]}
      min={min}
      max={2000}
      step={units === "mm" ? 0.5 : 25.4 / 32}
      onCommit={(mm) => change(thing, { [name]: mm })}
    />
  );
  const count = (label: string) => (
    <NumberField
      key={label}
      label={label}
      notation={PLAIN}
      value={thing.sides}
      min={3}
      max={360}
      step={1}
      onCommit={(sides) => change(thing, { sides: Math.round(sides) })}
    />
  );
  const aspect = (
    <NumberField
      key="aspect"
      label="Height to width"
      notation={ASPECT}
      value={thing.aspect}
      min={0.01}
      max={100}
      step={0.05}
      onCommit={(value) => change(thing, { aspect: value })}
    />
  );
  const FIELDS: Record<Form["form"], React.ReactNode[]> = {
    circle: [field("Diameter", "width"), aspect],
    ring: [field("Outer diameter", "width"), field("Inner diameter", "inner"), aspect],
    ellipse: [field("Ellipse width", "width"), field("Ellipse height", "height")],
    rectangle: [
      field("Rectangle width", "width"),
      field("Rectangle height", "height"),
      field("Corner radius", "radius", 0),
    ],
    polygon: [field("Diameter round it", "width"), count("Sides")],
    star: [
      field("Diameter of the points", "width"),
      field("Diameter of the notches", "inner"),
      count("Points"),
    ],
  };
  return (
    <Section name="Exact numbers" side={thing.form}>
      <div className="space-y-1.5">
        {FIELDS[thing.form]}
        <NumberField
          label="Turned"
          notation={{ ...PLAIN, unit: "°" }}
          value={thing.turn}
          min={-360}
          max={360}
          step={1}
          onCommit={(turn) => change(thing, { turn })}
        />
      </div>
    </Section>
  );
}

function LetteringNumbers({ thing }: { thing: Lettering }) {
  const flat = useShown();
  const units = useUnits();
  const fontId = useId();
  const own = useRef<HTMLInputElement>(null);
  const piece = useBench((s) => s.piece);
  const { commit } = useBench.getState();
  const list = useFonts();
  const bring = async (file: File | undefined) => {
    if (!file || !piece) return;
    try {
      const font = await data(
        api.POST("/api/pieces/{piece_id}/font", {
          params: { path: { piece_id: piece.id } },
          body: { font: file.name },
          bodySerializer: () => {
            const form = new FormData();
            form.append("font", file);
            return form;
          },
        }),
      );
      change(thing, { font: font.id });
    } catch (error) {
      useNotices.getState().refuse(error instanceof Error ? error.message : "The font could not be read.");
    }
  };
  const length = (label: string, value: number, set: (mm: number) => Partial<Lettering>, min = 0.5) => (
    <NumberField
      label={label}
      notation={lengths(units)}
      value={value}
      min={min}
      max={1000}
      step={units === "mm" ? 0.5 : 25.4 / 32}
      onCommit={(mm) => change(thing, set(mm))}
    />
  );
  return (
    <>
      <label htmlFor={fontId} className="sr-only">
        Font
      </label>
      <select
        id={fontId}
        value={thing.font}
        className="bg-sheet border-hair mb-1.5 h-8 w-full rounded-md border px-1.5"
        onChange={(event) =>
          event.target.value === "own" ? own.current?.click() : change(thing, { font: event.target.value })
        }
      >
        {list.map((font) => (
          <option key={font.id} value={font.id}>
            {font.name}
          </option>
        ))}
        {!thing.font.startsWith("font:") && thing.font && <option value={thing.font}>Own font</option>}
        <option value="own">Your own font file …</option>
      </select>
      <input
        ref={own}
        type="file"
        accept=".ttf,.otf,.woff,.woff2"
        aria-label="Font file"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => void bring(event.target.files?.[0])}
      />
      <div className="space-y-1.5">
        {length("Height of capitals", thing.height, (mm) => ({ height: mm, width: null }))}
        {length("Fit to width", thing.width ? thing.width : 0, (mm) => ({ width: mm > 0 ? mm : null }), 0)}
        <NumberField
          label="Spacing"
          notation={{ ...PLAIN, unit: "cap" }}
          value={thing.spacing}
          min={-1}
          max={5}
          step={0.05}
          onCommit={(spacing) => change(thing, { spacing })}
        />
        <NumberField
          label="Line distance"
          notation={{ ...PLAIN, unit: "cap" }}
          value={thing.leading}
          min={0.2}
          max={10}
          step={0.1}
          onCommit={(leading) => change(thing, { leading })}
        />
      </div>
      <div className="mt-2 space-y-1.5">
        <Choice
          label="Alignment"
          value={thing.align}
          options={[
            { value: "left", name: "left" },
            { value: "middle", name: "middle" },
            { value: "right", name: "right" },
          ]}
          onChange={(align) => change(thing, { align })}
        />
        <Choice
          label="Along"
          value={thing.path}
          options={[
            { value: "line", name: "straight" },
            { value: "above", name: "over a circle" },
            { value: "below", name: "under a circle" },
          ]}
          onChange={(path) => change(thing, { path })}
        />
        {thing.path !== "line" && (
          <>{length("Radius of the circle", thing.radius, (mm) => ({ radius: mm }))}</>
        )}
      </div>
      {Boolean(flat?.underlays.length) && (
        <Button className="mt-2 w-full" onClick={() => commit({ do: "replace", id: thing.id })}>
          Drop traced letters beneath
        </Button>
      )}
      <SwitchField
        label="Hidden"
        checked={thing.hidden}
        onChange={(hidden) => commit({ do: "mark-drawn", ids: [thing.id], hidden })}
      />
    </>
  );
}
