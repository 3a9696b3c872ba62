import { FileText, Square } from "lucide-react";
import { useRef, useState } from "react";

import { Button } from "../../../ui/Button";
import { Choice, NumberField } from "../../../ui/fields";
import { useDocument, useUnits } from "../../select";
import { lengths, Section } from "../parts";
import { useMany } from "./useMany";

const PACKINGS = [
  { value: "beds", name: "one 3MF per bed" },
  { value: "stl", name: "STLs" },
] as const;
const BED = 220;
const SPACING = 4;

/** The same piece for a list of names, each checked; packed on beds, or as single files. */
export function ManyNames() {
  const document = useDocument();
  const units = useUnits();
  const { state, make, stop } = useMany();
  const [text, setText] = useState("");
  const [packing, setPacking] = useState<"beds" | "stl">("beds");
  const [bed, setBed] = useState<[number, number]>([BED, BED]);
  const [spacing, setSpacing] = useState(SPACING);
  const [words, setWords] = useState<string | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const letterings = (document?.drawn ?? []).filter((t) => t.kind === "lettering");
  if (!letterings.length) return null;
  const count = text.split("\n").filter((line) => line.trim()).length;
  const notation = lengths(units);
  return (
    <Section name="Many names" side={count ? `${count} lines` : "one piece each"}>
      <textarea
        aria-label="Names, one a line"
        value={text}
        rows={4}
        placeholder={"Plot Fifteen\nPlot Sixteen\n…"}
        onChange={(event) => setText(event.target.value)}
        className="border-hair bg-sheet focus:border-act w-full resize-y rounded-md border px-2 py-1.5 outline-none"
      />
      <input
        ref={chooser}
        type="file"
        accept=".csv,.txt,text/plain,text/csv"
        aria-label="List of names"
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void file.text().then(setText);
          event.target.value = "";
        }}
      />
      <button
        type="button"
        onClick={() => chooser.current?.click()}
        className="text-act mb-2 flex items-center gap-1 text-xs font-semibold hover:underline"
      >
        <FileText size={13} aria-hidden /> from a list (CSV)
      </button>
      {letterings.length > 1 && (
        <label className="mb-2 grid grid-cols-[1fr_150px] items-center">
          Replaces
          <select
            value={words ?? letterings[0]?.id}
            onChange={(event) => setWords(event.target.value)}
            className="border-hair bg-sheet h-8 rounded-md border px-1.5"
          >
            {letterings.map((t) => (
              <option key={t.id} value={t.id}>
                {t.text.split("\n")[0]}
              </option>
            ))}
          </select>
        </label>
      )}
      <Choice label="Pack as" value={packing} options={PACKINGS} onChange={setPacking} />
      {packing === "beds" && (
        <div className="mt-1.5 space-y-1.5">
          <NumberField
            label="Width of the bed"
            value={bed[0]}
            notation={notation}
            min={10}
            max={5000}
            step={10}
            onCommit={(mm) => setBed([mm, bed[1]])}
          />
          <NumberField
            label="Depth of the bed"
            value={bed[1]}
            notation={notation}
            min={10}
            max={5000}
            step={10}
            onCommit={(mm) => setBed([bed[0], mm])}
          />
          <NumberField
            label="Spacing"
            value={spacing}
            notation={notation}
            min={0}
            max={100}
            step={1}
            onCommit={setSpacing}
          />
        </div>
      )}
      <div className="mt-2.5">
        {state.running ? (
          <Button className="w-full" onClick={stop}>
            <Square size={13} aria-hidden /> Stop
          </Button>
        ) : (
          <Button
            className="w-full"
            disabled={count === 0}
            onClick={() => void make({ text, words, packing, bed, spacing })}
          >
            Make all of them
          </Button>
        )}
      </div>
      <div aria-live="polite" className="mt-2 text-[12.5px]">
        {state.running && (
          <>
            <progress
              aria-label={state.what === "beds" ? "Beds made" : "Names made"}
              value={state.done}
              max={state.of || 1}
              className="accent-act w-full"
            />
            <p className="text-soft truncate">
              {state.done} of {state.of}: {state.name}
            </p>
          </>
        )}
        {!state.running && !state.packed && state.of > 0 && (
          <p className="text-soft">
            Stopped after {state.done} of {state.of}. What was made is kept: to go on is quick.
          </p>
        )}
        {state.problem && (
          <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-3 py-1.5">
            {state.problem}
          </p>
        )}
        {state.failed.length > 0 && (
          <ul className="border-remark bg-remark-wash rounded-r-md border-l-4 px-3 py-1.5">
            {state.failed.map(({ name, why }) => (
              <li key={name}>
                <b>{name}</b>: {why}
              </li>
            ))}
          </ul>
        )}
        {state.packed && (
          <p>
            <a href={state.packed.url} download={state.packed.name} className="underline">
              {state.packed.name}
            </a>
            : {state.pieces === 1 ? "1 piece" : `${state.pieces} pieces`},{" "}
            {packing === "beds"
              ? `${state.packed.count} bed${state.packed.count > 1 ? "s" : ""}`
              : `${state.packed.count} file${state.packed.count > 1 ? "s" : ""}`}
            , each sealed
          </p>
        )}
      </div>
    </Section>
  );
}
