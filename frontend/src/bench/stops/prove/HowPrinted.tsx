import { Link } from "react-router";

import type { Schemas } from "../../../api/client";
import { Choice, NumberField, PLAIN, SwitchField, type Notation } from "../../../ui/fields";
import { PrinterChoice, usePrinters } from "../../prove/Printers";
import { useDocument, useUnits } from "../../select";
import { useBench } from "../../store";
import { useOverlaid } from "../../overlaid";
import { Fold, lengths, Section } from "../parts";
import { hasHeights } from "../../support";

type Manner = Schemas["Manner-Output"];

const WHOLE: Notation = { ...PLAIN, format: (value) => String(Math.round(value)) };
const SHARE: Notation = {
  parse: (text) => {
    const found = PLAIN.parse(text.replace("%", ""));
    return found === null ? null : found / 100;
  },
  format: (value) => String(Math.round(value * 100)),
  unit: "%",
};
const PATTERNS = [
  { value: "lines", name: "lines" },
  { value: "grid", name: "grid" },
  { value: "concentric", name: "rings" },
] as const;
const SAME: readonly (keyof Manner)[] = ["walls", "bottom", "top", "infill", "pattern"];

/** The printer, how it prints, and how many copies: a few presets, each number open. */
export function HowPrinted() {
  const document = useDocument();
  const units = useUnits();
  const wanted = useOverlaid("set-printing");
  const layerWanted = useOverlaid("set-form");
  const { commit } = useBench.getState();
  const shelf = usePrinters();
  if (!document) return null;
  const { printing } = document;
  const manner: Manner = { ...printing.manner, ...wanted.manner };
  const layer = layerWanted.layer ?? document.layer;
  const set = (change: Partial<Manner>) =>
    commit((now) => ({ do: "set-printing", manner: { ...now.printing.manner, ...change } }));
  const presets = Object.entries(shelf?.presets ?? {});
  const preset = presets.find(([, one]) => SAME.every((name) => one[name] === manner[name]))?.[0] ?? "";
  const notation = lengths(units);
  const choose = (name: string) => {
    const one = presets.find(([found]) => found === name)?.[1];
    if (one) set(Object.fromEntries(SAME.map((field) => [field, one[field]])) as Partial<Manner>);
  };
  return (
    <Section
      name="How it is printed"
      side={
        <Link to="/printers" className="text-act hover:underline">
          printers
        </Link>
      }
    >
      <div className="space-y-1.5">
        <PrinterChoice />
        <NumberField
          label="Copies"
          value={wanted.copies ?? printing.copies}
          notation={WHOLE}
          min={1}
          max={200}
          step={1}
          onCommit={(copies) => commit({ do: "set-printing", copies: Math.round(copies) })}
        />
        <NumberField
          label="Layer"
          value={layer}
          notation={notation}
          min={0.04}
          max={1}
          step={0.02}
          onCommit={(mm) => commit({ do: "set-form", layer: mm })}
        />
        {hasHeights(document.form) && (
          <SwitchField
            label="Print face down"
            checked={wanted.face_down ?? printing.face_down}
            onChange={(face_down) => commit({ do: "set-printing", face_down })}
          />
        )}
        <Choice
          label="Preset"
          value={preset}
          options={presets.map(([value]) => ({ value, name: value }))}
          onChange={choose}
        />
      </div>
      <div className="mt-2">
        <Fold name="All numbers">
          <div className="space-y-1.5">
            <NumberField
              label="First layer"
              value={manner.first_layer}
              notation={notation}
              min={0.04}
              max={1}
              step={0.02}
              onCommit={(first_layer) => set({ first_layer })}
            />
            {(
              [
                ["Walls", "walls", 1, 20],
                ["Bottom layers", "bottom", 0, 100],
                ["Top layers", "top", 0, 100],
                ["Brim loops", "brim", 0, 50],
              ] as const
            ).map(([label, field, min, max]) => (
              <NumberField
                key={field}
                label={label}
                value={manner[field]}
                notation={WHOLE}
                min={min}
                max={max}
                step={1}
                onCommit={(value) => set({ [field]: Math.round(value) })}
              />
            ))}
            <NumberField
              label="Infill"
              value={manner.infill}
              notation={SHARE}
              min={0}
              max={1}
              step={0.05}
              onCommit={(infill) => set({ infill })}
            />
            <Choice
              label="Infill pattern"
              value={manner.pattern}
              options={PATTERNS}
              onChange={(pattern) => set({ pattern })}
            />
            <NumberField
              label="Thinnest line"
              value={manner.thinnest}
              notation={SHARE}
              min={0.2}
              max={1}
              step={0.05}
              onCommit={(thinnest) => set({ thinnest })}
            />
          </div>
        </Fold>
      </div>
    </Section>
  );
}
