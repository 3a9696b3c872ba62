import type { Region } from "../api/client";
import { formatLength, unitName } from "../ui/length";
import { Spool } from "../ui/Spools";
import { colourOf, heightWords, useDocument, useLook, useShown, useUnits } from "./select";
import { useBench } from "./store";

/** What belongs to the piece: source, regions, base. */
export function Contents() {
  const piece = useBench((s) => s.piece);
  const flat = useShown();
  const look = useLook();
  const document = useDocument();
  const setStop = useBench((s) => s.setStop);
  const units = useUnits();
  if (!piece || !document) return null;
  const source = document.source;
  const mm = (value: number) => `${formatLength(value, units)} ${unitName(units)}`;
  return (
    <aside
      aria-label="Contents"
      className="border-rule flex min-h-0 flex-col overflow-y-auto border-r px-3 py-3"
    >
      <Heading name="Source" count={source ? 1 : 0} />
      {source ? (
        <button
          type="button"
          onClick={() => setStop("Gather")}
          className="hover:bg-act-wash grid grid-cols-[34px_1fr] items-center gap-2.5 rounded-md px-1.5 py-1.5 text-left"
        >
          <span className="border-rule grid size-[34px] place-items-center overflow-hidden rounded border bg-white">
            <img src={look} alt="" className="max-h-full max-w-full" />
          </span>
          <span className="min-w-0">
            <span className="block truncate" title={source.name}>
              {source.name}
            </span>
            <span className="text-soft text-xs">
              {source.width} × {source.height} px
            </span>
          </span>
        </button>
      ) : (
        <p className="text-soft px-1.5 py-1">No picture yet.</p>
      )}
      <Heading name="Regions" count={flat?.regions.length ?? 0} />
      <ul className="-mx-0.5">
        {flat?.regions.slice(0, 400).map((region) => (
          <RegionRow key={region.id} region={region} colour={colourOf(document, region.filament)} mm={mm} />
        ))}
      </ul>
      {flat && flat.regions.length > 400 && (
        <p className="text-soft px-1.5">and {flat.regions.length - 400} more; pick them in the views.</p>
      )}
      {source && (
        <>
          <Heading name="Base" count={null} />
          <button
            type="button"
            onClick={() => setStop("Raise")}
            className="hover:bg-act-wash grid grid-cols-[34px_1fr_auto] items-center gap-2.5 rounded-md px-1.5 py-1.5 text-left"
          >
            <span className="border-rule bg-sheet grid size-[34px] place-items-center rounded border">
              {flat?.base_path && flat.base_box && (
                <svg width="26" height="26" viewBox={flat.base_box.join(" ")} aria-hidden>
                  <path
                    d={flat.base_path}
                    fill={colourOf(document, document.base?.filament ?? "")}
                    fillRule="evenodd"
                  />
                </svg>
              )}
            </span>
            <span>
              <span className="block">
                {document.base?.shape === "none" ? "No base" : `Base, ${document.base?.shape}`}
              </span>
              {document.base?.shape !== "none" && (
                <span className="text-soft text-xs">{mm(document.base?.thickness ?? 0)} thick</span>
              )}
            </span>
            {document.base?.shape !== "none" && (
              <Spool colour={colourOf(document, document.base?.filament ?? "")} />
            )}
          </button>
        </>
      )}
    </aside>
  );
}

function Heading({ name, count }: { name: string; count: number | null }) {
  return (
    <div className="mt-4 mb-1 flex items-baseline justify-between px-1.5 first:mt-0">
      <h2 className="text-[15px]">{name}</h2>
      {count !== null && <span className="text-soft">{count}</span>}
    </div>
  );
}

function RegionRow({ region, colour, mm }: { region: Region; colour: string; mm: (v: number) => string }) {
  const picked = useBench((s) => s.picked.includes(region.id));
  const hovered = useBench((s) => s.hover === region.id);
  const { pick, setHover } = useBench.getState();
  const [x, y, w, h] = region.box;
  const pad = Math.max(w, h) * 0.06;
  return (
    <li>
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
          <span className="block truncate">{region.name}</span>
          <span className="text-soft text-xs">{heightWords(region.height, mm)}</span>
        </span>
        <Spool colour={colour} />
      </button>
    </li>
  );
}
