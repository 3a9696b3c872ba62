import type { Document } from "../../api/client";
import { Spool } from "../../ui/Spools";
import { colourOf, useShown } from "../select";
import { useBench } from "../store";
import { supportName, supportThickness } from "../support";

/** What all of it stands on; a click leads to where it is set. */
export function BaseRow({ document, mm }: { document: Document; mm: (value: number) => string }) {
  const flat = useShown();
  const setStop = useBench((s) => s.setStop);
  const support = supportName(document.form);
  return (
    <button
      type="button"
      onClick={() => setStop("Raise")}
      className="hover:bg-act-wash grid grid-cols-[34px_1fr_auto] items-center gap-2.5 rounded-md px-1.5 py-1.5 text-left"
    >
      <span className="border-rule bg-sheet grid size-[34px] place-items-center rounded border">
        {flat?.base_path && flat.base_box && (
          <svg width="26" height="26" viewBox={flat.base_box.join(" ")} aria-hidden>
            <path d={flat.base_path} fill={colourOf(document, document.base.filament)} fillRule="evenodd" />
          </svg>
        )}
      </span>
      <span>
        <span className="block">
          {support === null
            ? "Cutter"
            : document.base.shape === "none"
              ? "No base"
              : `${support}, ${document.base.shape}`}
        </span>
        {document.base.shape !== "none" && support !== null && (
          <span className="text-soft text-xs">{mm(supportThickness(document))} thick</span>
        )}
      </span>
      {document.base.shape !== "none" && <Spool colour={colourOf(document, document.base.filament)} />}
    </button>
  );
}
