import { useState } from "react";

import { unitName } from "../ui/length";
import { ExportOutlines, type OutlineKind } from "./export/ExportOutlines";
import { ExportSolid, type SolidKind } from "./export/ExportSolid";
import { ExportWhole } from "./export/ExportWhole";
import { useUnits } from "./select";
import { useBench } from "./store";

type Kind = SolidKind | OutlineKind | "archive" | "recipe";

const KINDS: readonly { group: string; kinds: readonly { value: Kind; name: string; about: string }[] }[] = [
  {
    group: "The solid, to print",
    kinds: [
      { value: "3mf", name: "3MF", about: "With colours, names and units; one part a filament." },
      { value: "stl", name: "STL", about: "One surface without colours; every slicer reads it." },
      { value: "stl-each", name: "STLs", about: "One STL per filament, in a ZIP. Load them together." },
    ],
  },
  {
    group: "The outlines",
    kinds: [
      { value: "svg", name: "SVG", about: "For drawing programs and laser cutters; curves stay curves." },
      { value: "dxf", name: "DXF", about: "For CAD and cutting machines; layers by name and colour." },
      { value: "png", name: "PNG", about: "A picture with a transparent background." },
    ],
  },
  {
    group: "The piece",
    kinds: [
      {
        value: "archive",
        name: "Archive",
        about:
          "The piece with its pictures, fonts and named versions, to keep or to open on another machine.",
      },
      {
        value: "recipe",
        name: "Recipe",
        about: "Its outlines and numbers as a ZIP, to build it on the command line.",
      },
    ],
  },
];

/** Everything that leaves the piece: what each file is for, how large it gets, and the button that writes it. */
export function ExportPanel() {
  const stop = useBench((s) => s.stop);
  const outlines = stop === "Trace" || stop === "Shape";
  const [kind, setKind] = useState<Kind>(outlines ? "svg" : "3mf");
  const units = useUnits();
  const chosen = KINDS.flatMap(({ kinds }) => kinds).find(({ value }) => value === kind);
  return (
    <section aria-label="Export">
      <h2 className="mb-2 text-[15px]">Export</h2>
      <div role="radiogroup" aria-label="Kind of file" className="space-y-2">
        {KINDS.map(({ group, kinds }) => (
          <div key={group}>
            <p className="text-soft mb-1 text-xs">{group}</p>
            <div className="border-hair bg-sheet flex overflow-hidden rounded-md border">
              {kinds.map(({ value, name, about }) => (
                <button
                  key={value}
                  type="button"
                  role="radio"
                  aria-checked={kind === value}
                  title={about}
                  onClick={() => setKind(value)}
                  className="border-rule hover:bg-act-wash aria-checked:bg-ink aria-checked:text-paper h-8 flex-1 border-l px-1 text-[12.5px] first:border-l-0 focus-visible:-outline-offset-2"
                >
                  {name}
                </button>
              ))}
            </div>
          </div>
        ))}
      </div>
      <p className="text-soft mt-1.5 mb-2.5 text-xs">
        {chosen?.about}
        {(kind === "svg" || kind === "dxf") &&
          units !== "mm" &&
          ` The file is in mm, not ${unitName(units)}.`}
      </p>
      {kind === "recipe" || kind === "archive" ? (
        <ExportWhole key={kind} kind={kind} />
      ) : kind === "svg" || kind === "dxf" || kind === "png" ? (
        <ExportOutlines kind={kind} />
      ) : (
        <ExportSolid key={kind} kind={kind} name={chosen?.name ?? ""} />
      )}
    </section>
  );
}
