import { Eye, EyeOff, Lock, LockOpen } from "lucide-react";
import { memo, useMemo } from "react";

import type { Document, Flat } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { useShown } from "../select";
import { namesOf, titleOf, type Item, type Thing } from "../shape/objects";
import { useItems } from "../shape/useSheet";
import { useBench } from "../store";
import { Heading } from "./Heading";
import { Rows } from "./Rows";

/** Drawn things, the highest first, with what is locked and hidden. */
export function Drawn({ document }: { document: Document }) {
  const flat = useShown();
  const picked = useBench((s) => s.picked);
  const items = useItems();
  const things = useMemo(() => [...document.drawn].reverse(), [document.drawn]);
  const byId = useMemo(() => new Map(items.map((i) => [i.id, i])), [items]);
  const shown = useMemo(() => new Map(flat?.things.map((t) => [t.id, t])), [flat?.things]);
  if (!things.length) return null;
  const chosen = new Set(picked);
  const isPicked = (id: string) =>
    chosen.has(id) || Boolean(byId.get(id)?.ids.some((name) => chosen.has(name)));
  return (
    <div role="group" aria-label="Drawn" className="mt-3">
      <Heading name="Drawn" count={document.drawn.length} />
      <Rows items={things} isAt={(thing) => isPicked(thing.id)}>
        {(thing) => (
          <DrawnRow
            thing={thing}
            item={byId.get(thing.id)}
            shown={shown.get(thing.id)}
            picked={isPicked(thing.id)}
          />
        )}
      </Rows>
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
    <div className={`group relative rounded-md ${picked ? "bg-act-wash" : ""}`}>
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
    </div>
  );
});
