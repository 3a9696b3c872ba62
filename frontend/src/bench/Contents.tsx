import { memo, useMemo } from "react";
import { ChevronUp, Eye, EyeOff, Lock, LockOpen, Undo2 } from "lucide-react";

import type { Document, Flat, Picture, Region } from "../api/client";
import { SignButton } from "../ui/Button";
import { formatLength, unitName } from "../ui/length";
import { Spool } from "../ui/Spools";
import { useArrangement } from "./arrangement";
import { hasBegun } from "./begun";
import {
  colourOf,
  heightWords,
  lookOf,
  regionsEdit,
  underlayOf,
  useDocument,
  usePicture,
  useShown,
  useUnits,
} from "./select";
import { namesOf, titleOf, type Item, type Thing } from "./shape/objects";
import { useItems } from "./shape/useSheet";
import { useBench } from "./store";

/** More rows than this in one group would only be scrolled past. */
const MOST_ROWS = 400;

/** What belongs to the piece: source, regions, base. */
export function Contents() {
  const piece = useBench((s) => s.piece);
  const flat = useShown();
  const document = useDocument();
  const stop = useBench((s) => s.stop);
  const setStop = useBench((s) => s.setStop);
  const units = useUnits();
  const arrangement = useArrangement();
  if (!piece || !document) return null;
  const begun = hasBegun(document);
  const mm = (value: number) => `${formatLength(value, units)} ${unitName(units)}`;
  return (
    <aside
      aria-label="Contents"
      className={`border-rule flex min-h-0 flex-col overflow-y-auto border-r px-3 py-3 ${arrangement === "both" ? "" : "mb-44"}`}
    >
      <Heading name="Pictures" count={document.pictures.length} />
      {document.pictures.length ? (
        <ul className="-mx-0.5">
          {[...document.pictures].reverse().map((picture) => (
            <PictureRow key={picture.id} picture={picture} only={document.pictures.length === 1} />
          ))}
        </ul>
      ) : (
        <p className="text-soft px-1.5 py-1">No picture yet.</p>
      )}
      {stop === "Shape" && <Drawn document={document} />}
      {groups(flat, document, stop === "Shape").map(({ name, regions }) => (
        <div key={name} role="group" aria-label={name} className="mt-3">
          <Heading name={name} count={regions.length} />
          <ul className="-mx-0.5">
            {regions.slice(0, MOST_ROWS).map((region) => (
              <RegionRow
                key={region.id}
                region={region}
                colour={colourOf(document, region.filament)}
                mm={mm}
              />
            ))}
          </ul>
          {regions.length > MOST_ROWS && (
            <p className="text-soft px-1.5">and {regions.length - MOST_ROWS} more; pick them in the views.</p>
          )}
        </div>
      ))}
      <LeftOut regions={(flat?.regions ?? []).filter((r) => r.left_out)} document={document} mm={mm} />
      {begun && (
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
                    fill={colourOf(document, document.base.filament)}
                    fillRule="evenodd"
                  />
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
        </>
      )}
    </aside>
  );
}

/** What was thrown away or took another's place, folded: each can be taken back. */
function LeftOut({
  regions,
  document,
  mm,
}: {
  regions: readonly Region[];
  document: Document;
  mm: (value: number) => string;
}) {
  if (!regions.length) return null;
  return (
    <details className="mt-3">
      <summary className="text-soft cursor-pointer px-1.5">Left out ({regions.length})</summary>
      <ul aria-label="Left out" className="-mx-0.5">
        {regions.slice(0, MOST_ROWS).map((region) => (
          <RegionRow key={region.id} region={region} colour={colourOf(document, region.filament)} mm={mm} />
        ))}
      </ul>
    </details>
  );
}

/** A picture on the sheet: chosen for Gather and Trace, moved up or down, hidden, locked. */
function PictureRow({ picture, only }: { picture: Picture; only: boolean }) {
  const piece = useBench((s) => s.piece?.id ?? "");
  const look = useBench((s) => underlayOf(s.flat, picture.id)?.look);
  const current = usePicture()?.id === picture.id;
  const { setPicture, setStop, commit } = useBench.getState();
  const marks = picture.locked || picture.hidden;
  return (
    <li className={`group relative rounded-md ${current && !only ? "bg-act-wash" : ""}`}>
      <button
        type="button"
        aria-pressed={current}
        onClick={() => {
          setPicture(picture.id);
          setStop("Gather");
        }}
        className="hover:bg-act-wash grid w-full grid-cols-[34px_1fr] items-center gap-2.5 rounded-md px-1.5 py-1.5 text-left"
      >
        <span className="border-rule grid size-[34px] place-items-center overflow-hidden rounded border bg-white">
          {look && <img src={lookOf(piece, look)} alt="" className="max-h-full max-w-full" />}
        </span>
        <span className="min-w-0">
          <span
            className={`block truncate ${picture.hidden ? "text-soft line-through" : ""}`}
            title={picture.name}
          >
            {picture.name}
          </span>
          <span className="text-soft text-xs">
            {picture.width} × {picture.height} px
          </span>
        </span>
      </button>
      <span
        className={`bg-paper absolute top-2 right-0.5 flex rounded-md ${marks ? "" : "opacity-0 group-hover:opacity-100 focus-within:opacity-100"}`}
      >
        {!only && (
          <SignButton
            label={`Bring ${picture.name} up`}
            className="size-7!"
            onClick={() => commit({ do: "order-picture", picture: picture.id, to: "up" })}
          >
            <ChevronUp size={13} />
          </SignButton>
        )}
        <SignButton
          label={picture.locked ? `Unlock ${picture.name}` : `Lock ${picture.name}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-picture", picture: picture.id, locked: !picture.locked })}
        >
          {picture.locked ? <Lock size={13} /> : <LockOpen size={13} />}
        </SignButton>
        <SignButton
          label={picture.hidden ? `Show ${picture.name}` : `Hide ${picture.name}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-picture", picture: picture.id, hidden: !picture.hidden })}
        >
          {picture.hidden ? <EyeOff size={13} /> : <Eye size={13} />}
        </SignButton>
      </span>
    </li>
  );
}

/** How thick the base or plate of the piece's form is, mm. */
function thicknessOf(document: Document): number {
  if (document.form === "stamp") return document.stamp.thickness;
  if (document.form === "nameplate") return document.nameplate.thickness ?? 2.4;
  return document.base.thickness;
}

/** Regions by where they are from: the whole picture, each area of it, the pen. */
function groups(
  flat: Flat | null,
  document: Document,
  shaping: boolean,
): { name: string; regions: Region[] }[] {
  const regions = (flat?.regions ?? []).filter((r) => !r.left_out && (!shaping || r.drawn === null));
  const several = document.pictures.length > 1;
  const areas = document.pictures.flatMap((picture) =>
    picture.areas.map((area) => ({
      name: several ? `${area.name}, ${picture.name}` : area.name,
      regions: regions.filter((r) => r.picture === picture.id && r.traced_in === area.id),
    })),
  );
  const whole = several
    ? document.pictures.map((picture) => ({
        name: picture.name,
        regions: regions.filter((r) => r.picture === picture.id && r.pen === null && r.traced_in === null),
      }))
    : [];
  const drawn = regions.filter((r) => r.pen !== null);
  const rest = regions.filter(
    (r) => r.pen === null && r.traced_in === null && (!several || r.picture === null),
  );
  return [
    ...whole.filter((group) => group.regions.length),
    ...areas,
    ...(rest.length || !(whole.length || areas.length || drawn.length || shaping)
      ? [{ name: "Regions", regions: rest }]
      : []),
    ...(drawn.length ? [{ name: "Drawn by the pen", regions: drawn }] : []),
  ];
}

/** Drawn things, the highest first, with what is locked and hidden. */
function Drawn({ document }: { document: Document }) {
  const flat = useShown();
  const picked = useBench((s) => s.picked);
  const items = useItems();
  const things = useMemo(() => [...document.drawn].reverse().slice(0, MOST_ROWS), [document.drawn]);
  const byId = useMemo(() => new Map(items.map((i) => [i.id, i])), [items]);
  const shown = useMemo(() => new Map(flat?.things.map((t) => [t.id, t])), [flat?.things]);
  if (!things.length) return null;
  const chosen = new Set(picked);
  return (
    <div role="group" aria-label="Drawn" className="mt-3">
      <Heading name="Drawn" count={document.drawn.length} />
      <ul className="-mx-0.5">
        {things.map((thing) => {
          const item = byId.get(thing.id);
          const isPicked = chosen.has(thing.id) || Boolean(item?.ids.some((n) => chosen.has(n)));
          return (
            <DrawnRow
              key={thing.id}
              thing={thing}
              item={item}
              shown={shown.get(thing.id)}
              picked={isPicked}
            />
          );
        })}
      </ul>
    </div>
  );
}

const DrawnRow = memo(function DrawnRow({
  thing,
  item,
  shown,
  picked,
}: {
  thing: Thing;
  item: Item | undefined;
  shown: Flat["things"][number] | undefined;
  picked: boolean;
}) {
  const { pickAll, setHover, commit } = useBench.getState();
  const [x = 0, y = 0, w = 1, h = 1] = shown?.box ?? [];
  const title = titleOf(thing);
  const pickThis = (more: boolean) => {
    const names = item ? namesOf(item) : [thing.id];
    const before = useBench.getState().picked;
    const rest = before.filter((n) => !names.includes(n) && n !== thing.id);
    pickAll(more ? (picked ? rest : [...before, ...names]) : names);
  };
  return (
    <li className={`group relative rounded-md ${picked ? "bg-act-wash" : ""}`}>
      <button
        type="button"
        aria-pressed={picked}
        onPointerEnter={() => setHover(thing.id)}
        onPointerLeave={() => setHover(null)}
        onClick={(event) => pickThis(event.shiftKey || event.ctrlKey || event.metaKey)}
        className="grid w-full grid-cols-[34px_1fr] items-center gap-2.5 px-2 py-1.5 text-left"
      >
        <span className="border-rule bg-sheet grid size-[34px] place-items-center rounded border">
          <svg width="26" height="26" viewBox={`${x} ${y} ${w || 1} ${h || 1}`} aria-hidden>
            <path
              d={shown?.path ?? ""}
              fill={shown?.open ? "none" : "var(--soft)"}
              fillOpacity={0.5}
              fillRule="evenodd"
              stroke="var(--ink)"
              vectorEffect="non-scaling-stroke"
            />
          </svg>
        </span>
        <span className="min-w-0">
          <span className={`block truncate ${thing.hidden ? "text-soft line-through" : ""}`}>{title}</span>
          <span className="text-soft text-xs">
            {shown?.open ? "open line" : `${shown?.nodes ?? 0} nodes`}
            {thing.beneath ? ", beneath" : ""}
            {thing.group ? ", in a group" : ""}
          </span>
        </span>
      </button>
      <span
        className={`bg-paper absolute top-2 right-0.5 flex rounded-md ${thing.locked || thing.hidden ? "" : "opacity-0 group-hover:opacity-100 focus-within:opacity-100"}`}
      >
        <SignButton
          label={thing.locked ? `Unlock ${title}` : `Lock ${title}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-drawn", ids: [thing.id], locked: !thing.locked })}
        >
          {thing.locked ? <Lock size={13} /> : <LockOpen size={13} />}
        </SignButton>
        <SignButton
          label={thing.hidden ? `Show ${title}` : `Hide ${title}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-drawn", ids: [thing.id], hidden: !thing.hidden })}
        >
          {thing.hidden ? <EyeOff size={13} /> : <Eye size={13} />}
        </SignButton>
      </span>
    </li>
  );
});

function Heading({ name, count }: { name: string; count: number | null }) {
  return (
    <div className="mt-3 mb-1 flex items-baseline justify-between px-1.5 first:mt-0">
      <h2 className="text-[15px]">{name}</h2>
      {count !== null && <span className="text-soft">{count}</span>}
    </div>
  );
}

function RegionRow({ region, colour, mm }: { region: Region; colour: string; mm: (v: number) => string }) {
  const picked = useBench((s) => s.picked.includes(region.id));
  const hovered = useBench((s) => s.hover === region.id);
  const { pick, setHover, commit } = useBench.getState();
  const [x, y, w, h] = region.box;
  const pad = Math.max(w, h) * 0.06;
  return (
    <li className="relative">
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
    </li>
  );
}
