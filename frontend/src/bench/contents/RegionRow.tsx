import { Undo2 } from "lucide-react";

import type { Region } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { Spool } from "../../ui/Spools";
import { filamentsOf, heightWords, regionsEdit, useDocument } from "../select";
import { useBench } from "../store";

/** A region: picked by a click, seen in the views while the pointer is on it. */
export function RegionRow({
  region,
  colour,
  mm,
}: {
  region: Region;
  colour: string;
  mm: (v: number) => string;
}) {
  const picked = useBench((s) => s.picked.includes(region.id));
  const filament = filamentsOf(useDocument()).find((f) => f.id === region.filament)?.name ?? "";
  const hovered = useBench((s) => s.hover === region.id);
  const { pick, setHover, commit } = useBench.getState();
  const [x, y, w, h] = region.box;
  const pad = Math.max(w, h) * 0.06;
  return (
    <div className="relative">
      <button
        type="button"
        aria-pressed={picked}
        onClick={(event) => pick(region.id, event.shiftKey || event.ctrlKey || event.metaKey)}
        onPointerEnter={() => setHover(region.id)}
        onPointerLeave={() => setHover(null)}
        onFocus={() => setHover(region.id)}
        onBlur={() => setHover(null)}
        className={`grid w-full grid-cols-[34px_1fr_auto] items-center gap-2.5 rounded-md px-2 py-1.5 text-left ${picked ? "bg-act-wash" : hovered ? "bg-act-wash/55" : ""}`}
      >
        <span className="border-rule bg-sheet grid size-[34px] place-items-center rounded border">
          <svg
            width="26"
            height="26"
            viewBox={`${x - pad} ${y - pad} ${w + 2 * pad} ${h + 2 * pad}`}
            aria-hidden
          >
            <path
              d={region.path}
              fill={colour}
              fillRule="evenodd"
              stroke="var(--ink)"
              strokeWidth={0.6}
              vectorEffect="non-scaling-stroke"
            />
          </svg>
        </span>
        <span className="min-w-0">
          <span className={`block truncate ${region.left_out ? "text-soft line-through" : ""}`}>
            {region.name}
          </span>
          <span className="text-soft text-xs">
            {region.left_out ? "left out" : heightWords(region.height, mm)}
            {!region.left_out && <span className="sr-only">, {filament}</span>}
          </span>
        </span>
        {!region.left_out && <Spool colour={colour} />}
      </button>
      {region.left_out && (
        <SignButton
          label={`Bring ${region.name} back`}
          className="absolute top-1.5 right-1"
          onClick={() => commit(regionsEdit([region], { left_out: false }))}
        >
          <Undo2 size={14} />
        </SignButton>
      )}
    </div>
  );
}
