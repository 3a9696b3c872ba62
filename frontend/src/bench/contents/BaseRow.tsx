import type { Document } from "../../api/client";
import { Spool } from "../../ui/Spools";
import { colourOf, useShown } from "../select";
import { useBench } from "../store";

/** What all of it stands on; a click leads to where it is set. */
export function BaseRow({ document, mm }: { document: Document; mm: (value: number) => string }) {
  const flat = useShown();
  const setStop = useBench((s) => s.setStop);
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
          {document.form === "cutter"
            ? "Cutter"
            : document.base.shape === "none"
              ? "No base"
              : `${document.form === "relief" ? "Base" : "Plate"}, ${document.base.shape}`}
        </span>
        {document.base.shape !== "none" && document.form !== "cutter" && (
          <span className="text-soft text-xs">{mm(thicknessOf(document))} thick</span>
        )}
      </span>
      {document.base.shape !== "none" && <Spool colour={colourOf(document, document.base.filament)} />}
    </button>
  );
}

/** How thick the base or plate of the piece's form is, mm. */
function thicknessOf(document: Document): number {
  if (document.form === "stamp") return document.stamp.thickness;
  if (document.form === "nameplate") return document.nameplate.thickness ?? 2.4;
  return document.base.thickness;
}
