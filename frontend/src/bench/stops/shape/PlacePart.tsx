import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignStartHorizontal,
  AlignStartVertical,
  ChevronDown,
  ChevronsDown,
  ChevronsUp,
  ChevronUp,
  FlipHorizontal2,
  FlipVertical2,
  Ruler,
  StretchHorizontal,
  StretchVertical,
} from "lucide-react";
import { useState } from "react";

import type { Flat } from "../../../api/client";
import { Button, SignButton } from "../../../ui/Button";
import { NumberField, PLAIN, SwitchField } from "../../../ui/fields";
import { formatLength, unitName } from "../../../ui/length";
import { standsAlone } from "../../begun";
import { useDocument, useUnits } from "../../select";
import { duplicate, group, transform } from "../../shape/changes";
import { figuresOf } from "../../shape/marks";
import { boxOf, idsOf, seed, type Item } from "../../shape/objects";
import { useShape, type SnapTo } from "../../shape/state";
import { usePicked } from "../../shape/useSheet";
import { useOverlaid } from "../../overlaid";
import { useBench } from "../../store";
import { useLookOver } from "../../useLookOver";
import { Figures, lengths, Fold, Section } from "../parts";
import { Scraps } from "./Scraps";
import { Tools } from "./Tools";

const ALIGN = [
  ["left", "Left edges on one line", AlignStartVertical],
  ["centre", "Middles one above the other", AlignCenterVertical],
  ["right", "Right edges on one line", AlignEndVertical],
  ["top", "Top edges on one line", AlignStartHorizontal],
  ["middle", "Middles on one level", AlignCenterHorizontal],
  ["bottom", "Bottom edges on one line", AlignEndHorizontal],
  ["spread-across", "Spread evenly across", StretchVertical],
  ["spread-down", "Spread evenly down", StretchHorizontal],
] as const;
const SNAPS: readonly [SnapTo, string][] = [
  ["nodes", "Nodes"],
  ["edges", "Edges"],
  ["centres", "Centres"],
  ["grid", "Grid"],
];

export function PlacePart({ flat }: { flat: Flat }) {
  const picked = usePicked();
  return (
    <>
      <ArtSize flat={flat} />
      <Numbers picked={picked} />
      <OnTheBase picked={picked} flat={flat} />
      <Arrange picked={picked} />
      <Scraps />
      <Measure />
      <Snapping />
    </>
  );
}

function ArtSize({ flat }: { flat: Flat }) {
  const units = useUnits();
  const wanted = useOverlaid("set-size");
  const { commit } = useBench.getState();
  if (!flat.regions.some((r) => !r.left_out)) return null;
  const step = units === "mm" ? 1 : 25.4 / 16;
  const typed = flat.size;
  const say = (mm: number) => `${formatLength(mm, units)} ${unitName(units)}`;
  const field = (side: "width" | "height") => ({
    notation: lengths(units),
    min: 0.1,
    max: 2000,
    step,
    value: wanted.side === side ? (wanted.mm ?? flat[side]) : flat[side],
    onCommit: (mm: number) => commit({ do: "set-size", side, mm }),
  });
  return (
    <Section name="Size of the art" side="proportions kept">
      <div className="space-y-1.5">
        <NumberField label="Width" {...field("width")} />
        <NumberField label="Height" {...field("height")} />
      </div>
      {typed && !typed.holds && (
        <div className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]">
          <p className="mb-1.5">
            {typed.side === "width" ? "Width" : "Height"} was set to {say(typed.mm)}; it is {say(typed.now)}{" "}
            now.
          </p>
          <Button
            className="w-full"
            onClick={() =>
              commit({ do: "set-size", side: typed.side === "height" ? "height" : "width", mm: typed.mm })
            }
          >
            Set {say(typed.mm)} again
          </Button>
        </div>
      )}
    </Section>
  );
}

function Numbers({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const nudge = useShape((s) => s.nudge);
  const { set } = useShape.getState();
  const [kept, setKept] = useState(true);
  const [turn, setTurn] = useState(0);
  const box = boxOf(picked);
  const step = units === "mm" ? 1 : 25.4 / 16;
  if (!box) return <p className="text-soft mb-5">Pick something to place and size it by numbers.</p>;
  const field = (
    label: string,
    value: number,
    change: (mm: number) => Parameters<typeof transform>[1],
    min: number,
  ) => (
    <NumberField
      label={label}
      notation={lengths(units)}
      value={value}
      min={min}
      max={2000}
      step={step}
      onCommit={(mm) => transform(picked, change(mm))}
    />
  );
  return (
    <Section name="Place and size">
      <div className="space-y-1.5">
        {field("x", box.x, (x) => ({ x }), -2000)}
        {field("y", box.y, (y) => ({ y }), -2000)}
        {field("Its width", box.width, (width) => ({ width, free: !kept }), 0.05)}
        {field("Its height", box.height, (height) => ({ height, free: !kept }), 0.05)}
      </div>
      <SwitchField label="Keep proportions" checked={kept} onChange={setKept} />
      <div className="space-y-1.5">
        <NumberField
          label="Turn by"
          notation={{ ...PLAIN, unit: "°" }}
          value={turn}
          min={-360}
          max={360}
          step={5}
          onCommit={(degrees) => {
            setTurn(degrees);
            transform(picked, { turn: degrees });
          }}
        />
        <Tools tools={[{ tool: "level-two", name: "Level by two clicks" }]} />
        <NumberField
          label="Arrows nudge by"
          notation={lengths(units)}
          value={nudge}
          min={0.001}
          max={100}
          step={0.1}
          onCommit={(mm) => set({ nudge: mm })}
        />
      </div>
    </Section>
  );
}

/** What is picked, centred on or fitted into the largest thing that is picked, or into the base. */
function OnTheBase({ picked, flat }: { picked: readonly Item[]; flat: Flat }) {
  const units = useUnits();
  const [margin, setMargin] = useState(2);
  const document = useDocument();
  const { commit } = useBench.getState();
  const box = boxOf(picked);
  if (!box) return null;
  const [onto, rest] = holderOf(picked);
  const target = onto?.id ?? BASE;
  const name = onto ? "the largest" : "the base";
  // A base that follows the art has no place of its own to bring the art to.
  const base = document && standsAlone(document) ? flat.base_box : null;
  const [x, y, width, height] = onto?.box ?? base ?? [];
  const none = x === undefined || y === undefined || width === undefined || height === undefined;
  const inner = boxOf(rest);
  const off: [number, number] | null =
    none || !inner
      ? null
      : [inner.x + inner.width / 2 - x - width / 2, inner.y + inner.height / 2 - y - height / 2];
  const centre = (by: [number | null, number | null]) =>
    commit({ do: "centre", seed: seed(), picked: idsOf(rest), onto: target, by });
  const away = (label: string, axis: 0 | 1) =>
    off && (
      <NumberField
        label={label}
        notation={lengths(units)}
        value={Number(off[axis].toFixed(4))}
        min={-2000}
        max={2000}
        step={units === "mm" ? 1 : 25.4 / 16}
        onCommit={(mm) => centre(axis === 0 ? [mm, null] : [null, mm])}
      />
    );
  return (
    <Section name={onto ? "In the largest" : "On the base"} side={onto ? "of what is picked" : undefined}>
      <div className="space-y-1.5">
        <Button className="w-full" disabled={none} onClick={() => centre([0, 0])}>
          Centre on {name}
        </Button>
        {away("Right of middle", 0)}
        {away("Below middle", 1)}
        <NumberField
          label="Margin inside"
          notation={lengths(units)}
          value={margin}
          min={0}
          max={500}
          step={0.5}
          onCommit={setMargin}
        />
        <Button
          className="w-full"
          disabled={none}
          title="As large as it fits with this margin; what holds it stays as it is."
          onClick={() =>
            commit({ do: "fit-inside", seed: seed(), picked: idsOf(rest), into: target, margin })
          }
        >
          Fit into {name}
        </Button>
        {none && (
          <p className="text-soft text-xs">
            The base follows the art. Give it a size of its own in Raise first: a diameter, or a width and a
            depth.
          </p>
        )}
      </div>
    </Section>
  );
}

/** The base, by this name, holds what is picked where no other thing does. */
const BASE = "base";

/** Of several picked things the largest holds the others. */
function holderOf(picked: readonly Item[]): [Item | undefined, readonly Item[]] {
  if (picked.length < 2) return [undefined, picked];
  const largest = [...picked].sort((a, b) => b.box[2] * b.box[3] - a.box[2] * a.box[3])[0];
  return [largest, picked.filter((i) => i !== largest)];
}

function Arrange({ picked }: { picked: readonly Item[] }) {
  const { commit } = useBench.getState();
  const drawn = picked.filter((i) => i.thing);
  const ids = idsOf(drawn);
  const repeated = drawn.filter((i) => i.thing?.follow);
  const closed = drawn.filter((i) => i.area > 0);
  const order = (to: "top" | "bottom" | "up" | "down") => commit({ do: "order-drawn", ids, to });
  const locked = drawn.length > 0 && drawn.every((i) => i.thing?.locked);
  return (
    <Section name="Arrange">
      <div className="mb-1 flex flex-wrap" role="group" aria-label="Align">
        {ALIGN.map(([how, label, Sign]) => (
          <SignButton
            key={how}
            label={label}
            disabled={picked.length < 2}
            onClick={() => commit({ do: "align", seed: seed(), picked: idsOf(picked), how })}
          >
            <Sign size={16} />
          </SignButton>
        ))}
        <SignButton
          label="Mirror left to right"
          disabled={!picked.length}
          onClick={() => transform(picked, { flip: "x" })}
        >
          <FlipHorizontal2 size={16} />
        </SignButton>
        <SignButton
          label="Mirror top to bottom"
          disabled={!picked.length}
          onClick={() => transform(picked, { flip: "y" })}
        >
          <FlipVertical2 size={16} />
        </SignButton>
        <SignButton label="To the top" disabled={!ids.length} onClick={() => order("top")}>
          <ChevronsUp size={16} />
        </SignButton>
        <SignButton label="One up" disabled={!ids.length} onClick={() => order("up")}>
          <ChevronUp size={16} />
        </SignButton>
        <SignButton label="One down" disabled={!ids.length} onClick={() => order("down")}>
          <ChevronDown size={16} />
        </SignButton>
        <SignButton label="To the bottom" disabled={!ids.length} onClick={() => order("bottom")}>
          <ChevronsDown size={16} />
        </SignButton>
      </div>
      <div className="grid grid-cols-2 gap-1.5">
        <Button className="px-1! text-[12.5px]" disabled={!picked.length} onClick={() => duplicate(picked)}>
          Duplicate
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!picked.length}
          onClick={() => commit({ do: "lift", seed: seed(), picked: idsOf(picked) })}
        >
          Convert to nodes
        </Button>
        <Button className="px-1! text-[12.5px]" disabled={ids.length < 2} onClick={() => group(picked, true)}>
          Group
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!drawn.some((i) => i.thing?.group)}
          onClick={() => group(picked, false)}
        >
          Ungroup
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!ids.length}
          onClick={() => commit({ do: "mark-drawn", ids, locked: !locked })}
        >
          {locked ? "Unlock" : "Lock"}
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!ids.length}
          onClick={() => commit({ do: "mark-drawn", ids, hidden: true })}
        >
          Hide
        </Button>
        <Button
          className="col-span-2 px-1! text-[12.5px]"
          disabled={!repeated.length}
          title="What is mirrored or repeated becomes free outlines; it is repeated no longer."
          onClick={() => commit({ do: "make-plain", picked: idsOf(repeated) })}
        >
          Stop repeating
        </Button>
      </div>
      <SwitchField
        label="A hole through everything"
        disabled={!closed.length}
        checked={closed.length > 0 && closed.every((i) => i.thing?.hole)}
        onChange={(hole) => commit({ do: "mark-drawn", ids: idsOf(closed), hole })}
      />
    </Section>
  );
}

function Measure() {
  const measured = useShape((s) => s.measured);
  const { set } = useShape.getState();
  const units = useUnits();
  const over = useLookOver();
  const mm = (value: number) => `${formatLength(value, units, 3)} ${unitName(units)}`;
  const found = measured && figuresOf(measured[0], measured[1]);
  return (
    <Fold name="Measure">
      <div className="grid grid-cols-2 gap-1.5">
        <Tools tools={[{ tool: "measure", name: "Measure", sign: <Ruler size={14} aria-hidden /> }]} />
        <Button className="px-1! text-[12.5px]" disabled={!measured} onClick={() => set({ measured: null })}>
          Clear
        </Button>
      </div>
      <div className="mt-1.5">
        <Figures
          rows={[
            ...(found
              ? ([
                  ["Distance", mm(found.distance)],
                  ["Angle", `${found.angle.toFixed(2)}°`],
                  ["Slope", found.slope],
                ] as const)
              : []),
            ["Thinnest neck", over?.neck ? mm(over.neck.width) : "…"],
            ["Narrowest gap", over?.gap ? mm(over.gap.width) : "…"],
          ]}
        />
      </div>
    </Fold>
  );
}

function Snapping() {
  const snap = useShape((s) => s.snap);
  const grid = useShape((s) => s.grid);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Fold name="Snap to">
      {SNAPS.map(([name, label]) => (
        <SwitchField
          key={name}
          label={label}
          checked={snap[name]}
          onChange={(on) => set({ snap: { ...snap, [name]: on } })}
        />
      ))}
      {snap.grid && (
        <NumberField
          label="Grid step"
          notation={lengths(units)}
          value={grid}
          min={0.05}
          max={100}
          step={0.5}
          onCommit={(mm) => set({ grid: mm })}
        />
      )}
    </Fold>
  );
}
