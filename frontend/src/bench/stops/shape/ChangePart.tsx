import { Brush, Circle, Link2, Scissors, Slash, Spline } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, data, type Edit, type Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN, SliderField, SwitchField } from "../../../ui/fields";
import { formatLength, unitName } from "../../../ui/length";
import { useUnits } from "../../select";
import { contoursOf, nodePlaces } from "../../shape/contours";
import { changeNodes } from "../../shape/NodesTool";
import { idsOf, seed, type Item } from "../../shape/objects";
import { useShape } from "../../shape/state";
import { useItems, usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { lengths, Fold, Section } from "../parts";
import { Tools } from "./Tools";

type TieNumbers = Schemas["TieNumbers"];
type How = "unite" | "carve" | "overlap" | "divide" | "silhouette";
const COMBINE: readonly { how: How; name: string; does: string }[] = [
  { how: "unite", name: "Unite", does: "All that is picked becomes one outline." },
  { how: "carve", name: "Carve", does: "The first one picked less the others." },
  { how: "overlap", name: "Overlap", does: "What all of them cover." },
  { how: "divide", name: "Divide", does: "Every area between the borders by itself." },
  { how: "silhouette", name: "Silhouette", does: "The outer border of all, holes filled." },
];

export function ChangePart() {
  const picked = usePicked();
  const closed = picked.filter((i) => i.area > 0);
  return (
    <>
      <NodeTools />
      <Combining picked={closed} />
      <Border picked={closed} />
      <Ties picked={closed} />
      <Lines picked={picked} />
      <Loop picked={closed} />
    </>
  );
}

const say = (edit: Edit) => useBench.getState().commit(edit);
/** Picked in the order in which it was picked: the first one is the one that is cut. */
function inOrder(items: readonly Item[]): string[] {
  const order = useBench.getState().picked;
  const place = (i: Item) => Math.min(...i.ids.map((id) => order.indexOf(id)).filter((at) => at >= 0), 1e9);
  return idsOf([...items].sort((a, b) => place(a) - place(b)));
}

function NodeTools() {
  const nodes = useShape((s) => s.nodes);
  const brush = useShape((s) => s.brush);
  const tool = useBench((s) => s.tool);
  const { set } = useShape.getState();
  const units = useUnits();
  const picked = usePicked();
  const [tolerance, setTolerance] = useState(0.05);
  const before = picked.reduce((sum, i) => sum + i.nodes, 0);
  return (
    <Section name="Nodes" side={before ? `${before} in the pick` : undefined}>
      <Tools
        tools={[
          { tool: "nodes", name: "Nodes", sign: <Spline size={14} aria-hidden /> },
          { tool: "ease", name: "Ease", sign: <Brush size={14} aria-hidden /> },
          { tool: "straighten", name: "Straighten", sign: <Slash size={14} aria-hidden /> },
          { tool: "arc", name: "Make an arc", sign: <Circle size={14} aria-hidden /> },
        ]}
      />
      {tool === "nodes" && (
        <div className="mt-1.5 grid grid-cols-3 gap-1" aria-label="What to do with nodes" role="group">
          {(
            [
              ["smooth", "Smooth"],
              ["corner", "Corner"],
              ["delete", "Delete"],
              ["line", "To line"],
              ["curve", "To curve"],
              ["open", "Open here"],
            ] as const
          ).map(([how, name]) => (
            <Button
              key={how}
              className="h-7! px-1! text-[12.5px]"
              disabled={!nodes}
              onClick={() => changeNodes(how)}
            >
              {name}
            </Button>
          ))}
        </div>
      )}
      {tool === "nodes" && nodes && <NodeNumbers nodes={nodes} />}
      {tool === "ease" && (
        <div className="mt-1.5 space-y-1.5">
          <NumberField
            label="Brush radius"
            notation={lengths(units)}
            value={brush.radius}
            min={0.1}
            max={100}
            step={0.5}
            onCommit={(radius) => set({ brush: { ...brush, radius } })}
          />
          <NumberField
            label="Stays within"
            notation={lengths(units)}
            value={brush.tolerance}
            min={0.01}
            max={10}
            step={0.05}
            onCommit={(mm) => set({ brush: { ...brush, tolerance: mm } })}
          />
        </div>
      )}
      <SliderField
        label="Simplify within"
        notation={lengths(units)}
        value={tolerance}
        min={0.005}
        max={2}
        sliderMax={0.5}
        step={0.005}
        disabled={!picked.length}
        onPreview={(mm) =>
          useBench.getState().previewEdit({ do: "simplify", picked: idsOf(picked), tolerance: mm })
        }
        onCommit={setTolerance}
      />
      <SimplifyCount picked={picked} />
      <Button
        className="w-full"
        disabled={!picked.length}
        onClick={() => say({ do: "simplify", picked: idsOf(picked), tolerance })}
      >
        Simplify
      </Button>
    </Section>
  );
}

/** Where the picked node lies; of several, their middle. Typed, they are moved there. */
function NodeNumbers({ nodes }: { nodes: { id: string; contour: number; at: readonly number[] } }) {
  const units = useUnits();
  const item = useItems().find((i) => i.id === nodes.id);
  const contour = useMemo(() => contoursOf(item?.path ?? "")[nodes.contour], [item?.path, nodes.contour]);
  const places = contour ? nodePlaces(contour).filter((_, i) => nodes.at.includes(i)) : [];
  if (!places.length) return null;
  const middle = (axis: 0 | 1) => places.reduce((sum, p) => sum + p[axis], 0) / places.length;
  const field = (axis: 0 | 1) => (
    <NumberField
      label={`${places.length > 1 ? "Middle of them" : "Node"}, ${axis ? "y" : "x"}`}
      notation={lengths(units)}
      value={Number(middle(axis).toFixed(4))}
      min={-1e5}
      max={1e5}
      step={units === "mm" ? 0.5 : 25.4 / 32}
      onCommit={(mm) =>
        say({
          do: "move-nodes",
          id: nodes.id,
          contour: nodes.contour,
          nodes: [...nodes.at],
          by: axis ? [0, mm - middle(1)] : [mm - middle(0), 0],
        })
      }
    />
  );
  return (
    <div className="mt-1.5 space-y-1.5">
      {field(0)}
      {field(1)}
    </div>
  );
}

/** How many nodes a simplification would leave, while its slider is moved. */
function SimplifyCount({ picked }: { picked: readonly Item[] }) {
  const draft = useBench((s) => s.draft);
  const items = useItems();
  const stands = useBench((s) => s.flat);
  if (draft?.do !== "simplify" || !picked.length) return null;
  const names = new Set(idsOf(picked));
  const after = items.filter((i) => names.has(i.id)).reduce((sum, i) => sum + i.nodes, 0);
  const before =
    (stands?.regions.filter((r) => names.has(r.id)).reduce((sum, r) => sum + r.nodes, 0) ?? 0) +
    (stands?.things.filter((t) => names.has(t.id)).reduce((sum, t) => sum + t.nodes, 0) ?? 0);
  return (
    <p className="text-soft mb-1 text-[12.5px]">
      {before} nodes become {after}.
    </p>
  );
}

function Combining({ picked }: { picked: readonly Item[] }) {
  const tool = useBench((s) => s.tool);
  return (
    <Section name="Combine" side={picked.length ? `${picked.length} picked` : "pick two or more"}>
      <div className="grid grid-cols-3 gap-1">
        {COMBINE.map(({ how, name, does }) => (
          <Button
            key={how}
            title={does}
            className={`h-8! px-1! text-[12.5px] ${how === "silhouette" ? "col-span-2" : ""}`}
            disabled={picked.length < (how === "divide" || how === "silhouette" || how === "unite" ? 1 : 2)}
            onClick={() => {
              const name = seed();
              say({ do: "combine", seed: name, how, picked: inOrder(picked) });
              if (how !== "divide") useBench.getState().pickAll([name]);
            }}
          >
            {name}
          </Button>
        ))}
      </div>
      <div className="mt-1.5 grid grid-cols-2 gap-1.5">
        <Tools tools={[{ tool: "trim", name: "Trim", sign: <Scissors size={14} aria-hidden /> }]} />
        <Button
          className="px-1! text-[12.5px]"
          disabled={!picked.length}
          onClick={() => say({ do: "split", seed: seed(), picked: idsOf(picked) })}
        >
          Split at crossings
        </Button>
      </div>
      {tool === "trim" && (
        <p className="text-soft mt-1 text-[12.5px]">Trims the picked outline, or the nearest one.</p>
      )}
    </Section>
  );
}

function Border({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const piece = useBench((s) => s.piece);
  const [by, setBy] = useState(3);
  const [corners, setCorners] = useState<"round" | "mitre" | "bevel">("round");
  const [fill, setFill] = useState(false);
  const [keep, setKeep] = useState(true);
  const joining = useRef(0);
  const [found, setFound] = useState<{ key: string; growth: number; parts: number } | null>(null);
  const name = useRef(seed());
  const key = `${piece?.revision} ${idsOf(picked).join(" ")}`;
  useEffect(() => {
    if (!piece || !picked.length) return;
    const turn = ++joining.current;
    const timer = setTimeout(() => {
      void data(
        api.POST("/api/pieces/{piece_id}/joining", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision, picked: idsOf(picked) },
        }),
      ).then(
        (answer) => turn === joining.current && setFound({ key, ...answer }),
        () => undefined,
      );
    }, 250);
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  const edit = (mm: number): Edit => ({
    do: "offset",
    seed: name.current,
    picked: idsOf(picked),
    by: mm,
    back: 0,
    corners,
    fill_holes: fill,
    keep,
  });
  const make = (change: Partial<Extract<Edit, { do: "offset" }>> = {}) => {
    say({ ...edit(by), ...change } as Edit);
    name.current = seed();
  };
  const loose = found?.key === key && found.parts > 1 ? found : null;
  return (
    <Section name="Border" side={picked.length ? undefined : "pick outlines"}>
      <SliderField
        label={by < 0 ? "Shrink by" : "Grow by"}
        notation={lengths(units)}
        value={by}
        min={-15}
        max={100}
        sliderMax={15}
        step={0.1}
        disabled={!picked.length}
        onPreview={(mm) => useBench.getState().previewEdit(edit(mm))}
        onCommit={setBy}
      />
      <Choice
        label="Corners"
        value={corners}
        options={[
          { value: "round", name: "round" },
          { value: "mitre", name: "mitred" },
          { value: "bevel", name: "bevelled" },
        ]}
        onChange={setCorners}
      />
      <SwitchField label="Fill holes" checked={fill} onChange={setFill} />
      <SwitchField label="Keep what is inside" checked={keep} onChange={setKeep} />
      <Button kind="act" className="w-full" disabled={!picked.length || by === 0} onClick={() => make()}>
        {by < 0 ? "Shrink" : "Make the border"}
      </Button>
      {loose && (
        <div className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]">
          <p className="mb-1.5" data-joining={loose.growth.toFixed(3)}>
            The pick is in {loose.parts} separate parts. Growing it by {formatLength(loose.growth, units, 3)}{" "}
            {unitName(units)} joins them.
          </p>
          <Button
            className="w-full"
            onClick={() => make({ by: Math.ceil((Math.hypot(loose.growth, 0.8) + 0.005) * 100) / 100 })}
          >
            Grow just enough
          </Button>
        </div>
      )}
      <Button
        className="mt-1.5 w-full"
        disabled={!picked.length}
        title="Grows and shrinks back: gaps narrower than twice as much close."
        onClick={() => make({ by: Math.abs(by) / 2, back: -Math.abs(by) / 2, keep: false })}
      >
        Close gaps up to {formatLength(Math.abs(by), units)} {unitName(units)}
      </Button>
    </Section>
  );
}

function Ties({ picked }: { picked: readonly Item[] }) {
  const width = useShape((s) => s.tieWidth);
  const { set } = useShape.getState();
  const units = useUnits();
  const items = useItems();
  const ties = picked.filter((i) => i.thing?.kind === "path" && (i.thing.tie ?? i.thing.tied));
  const [first] = ties;
  const path = first?.thing?.kind === "path" ? first.thing : null;
  const own = path?.tie ? [path.tie] : (path?.tied?.ties ?? []);
  const [chosen, setChosen] = useState(0);
  const which = Math.min(chosen, own.length - 1);
  const tie = own[which] ?? null;
  return (
    <Fold
      name="Ties"
      open={own.length > 0}
      side={own.length ? `${own.length} in the pick` : "join loose parts"}
    >
      <div className="space-y-1.5">
        {own.length > 1 && (
          <NumberField
            label="Which tie"
            notation={PLAIN}
            value={which + 1}
            min={1}
            max={own.length}
            step={1}
            onCommit={(number) => setChosen(Math.round(number) - 1)}
          />
        )}
        <NumberField
          label={tie ? "Its width" : "Tie width"}
          notation={lengths(units)}
          value={tie ? Number(tie.width.toFixed(4)) : width}
          min={0.2}
          max={100}
          step={0.2}
          onCommit={(mm) => {
            set({ tieWidth: mm });
            if (tie) say({ do: "retie", picked: [first?.id ?? ""], which, width: mm });
          }}
        />
        {tie && ties.length === 1 && <TieEnds tie={tie} id={first?.id ?? ""} which={which} />}
        <div className="grid grid-cols-2 gap-1.5">
          <Tools tools={[{ tool: "tie", name: "By two clicks", sign: <Link2 size={14} aria-hidden /> }]} />
          <Button
            className="px-1! text-[12.5px]"
            onClick={() => {
              const parts = picked.length ? picked : items.filter((i) => i.area > 0);
              if (parts.length) say({ do: "tie", seed: seed(), picked: idsOf(parts), width, links: null });
            }}
          >
            Propose ties
          </Button>
        </div>
      </div>
    </Fold>
  );
}

/** Where a tie begins and ends, mm on the sheet. */
function TieEnds({ tie, id, which }: { tie: TieNumbers; id: string; which: number }) {
  const units = useUnits();
  const place = (end: "start" | "end", axis: 0 | 1) => (
    <NumberField
      label={`${end === "start" ? "From" : "To"} ${"xy".charAt(axis)}`}
      notation={lengths(units)}
      value={Number(tie[end][axis].toFixed(3))}
      min={-5000}
      max={5000}
      step={0.5}
      onCommit={(mm) => {
        const [x, y] = tie[end];
        say({ do: "retie", picked: [id], which, [end]: axis === 0 ? [mm, y] : [x, mm] });
      }}
    />
  );
  return (
    <>
      {place("start", 0)}
      {place("start", 1)}
      {place("end", 0)}
      {place("end", 1)}
    </>
  );
}

function Lines({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const [width, setWidth] = useState(1.6);
  const [ends, setEnds] = useState<"round" | "square" | "flat">("round");
  const open = picked.filter((i) => i.open);
  return (
    <Fold name="Line width" open={open.length > 0} side={open.length ? `${open.length} open` : undefined}>
      <div className="space-y-1.5">
        <NumberField
          label="Width"
          notation={lengths(units)}
          value={width}
          min={0.1}
          max={100}
          step={0.1}
          onCommit={setWidth}
        />
        <Choice
          label="Ends and corners"
          value={ends}
          options={[
            { value: "round", name: "round" },
            { value: "square", name: "square" },
            { value: "flat", name: "flat" },
          ]}
          onChange={setEnds}
        />
        <Button
          className="w-full"
          disabled={!picked.length}
          onClick={() => {
            const name = seed();
            say({
              do: "widen",
              seed: name,
              picked: idsOf(picked),
              width,
              ends,
              corners: ends === "round" ? "round" : "mitre",
            });
            useBench.getState().pickAll([name]);
          }}
        >
          Give the line its width
        </Button>
        <Button
          className="w-full"
          disabled={!open.length || open.length > 2}
          onClick={() => say({ do: "join", picked: idsOf(open) })}
        >
          {open.length === 2 ? "Join the two lines" : "Close the line"}
        </Button>
      </div>
    </Fold>
  );
}

function Loop({ picked }: { picked: readonly Item[] }) {
  const loop = useShape((s) => s.loop);
  const items = useItems();
  const held = largestOf(picked) ?? largestOf(items);
  const { set } = useShape.getState();
  const units = useUnits();
  return (
    <Fold name="Hanging hole">
      <div className="space-y-1.5">
        <Choice
          label="Loop or hole"
          value={loop.kind}
          options={[
            { value: "loop", name: "key loop" },
            { value: "hole", name: "hole" },
          ]}
          onChange={(kind) => set({ loop: { ...loop, kind } })}
        />
        <NumberField
          label="Hole"
          notation={lengths(units)}
          value={loop.inner}
          min={0.5}
          max={100}
          step={0.5}
          onCommit={(inner) => set({ loop: { ...loop, inner } })}
        />
        <NumberField
          label="Wall"
          notation={lengths(units)}
          value={loop.wall}
          min={0.4}
          max={50}
          step={0.25}
          onCommit={(wall) => set({ loop: { ...loop, wall } })}
        />
        <Button
          className="w-full"
          disabled={!held}
          title="At the upper edge, where the piece hangs level."
          onClick={() => held && say({ do: "loop", seed: seed(), id: held.id, ...loop })}
        >
          Where it hangs level
        </Button>
        <Tools tools={[{ tool: "loop", name: "By a click" }]} />
      </div>
    </Fold>
  );
}

/** The closed thing that covers the most, holes aside. */
function largestOf(items: readonly Item[]): Item | undefined {
  return items
    .filter((i) => i.area > 0 && !i.thing?.hole)
    .reduce<Item | undefined>((best, i) => (best && best.area >= i.area ? best : i), undefined);
}
