import type { Document, Edit, Flat, Region, Schemas } from "../../api/client";
import { Choice, NumberField, PLAIN, SliderField, SwitchField } from "../../ui/fields";
import { formatLength, unitName } from "../../ui/length";
import { FilamentPicker } from "../Filaments";
import { standsAlone } from "../begun";
import { regionsEdit, useDocument, useProblemAt, useShown, useUnits } from "../select";
import { useOverlaid } from "../overlaid";
import { useBench } from "../store";
import { lengths, Section } from "./parts";
import { FormChooser } from "./raise/FormChooser";
import { FormNumbers } from "./raise/forms/FormNumbers";
import { PrintPart } from "./raise/PrintPart";
import { hasBaseThickness, hasEdges, hasHeights, supportName, supportThickness } from "../support";

type EdgeOptions = Schemas["EdgeOptions-Output"];
type Way = "raised" | "sunk" | "flush" | "through";
const WAYS = [
  { value: "raised", name: "Raised" },
  { value: "sunk", name: "Sunk" },
  { value: "flush", name: "Flush" },
  { value: "through", name: "Through" },
] as const;
const BASES = [
  { value: "outline", name: "Outline" },
  { value: "rectangle", name: "Box" },
  { value: "circle", name: "Circle" },
  { value: "block", name: "Block" },
  { value: "none", name: "None" },
] as const;
const RAISED = 1.2;
const LOWEST = 0.05;
const HIGHEST = 500;
const SLIDER_TOP = 10;

export function RaiseStop() {
  const document = useDocument();
  const flat = useShown();
  const picked = useBench((s) => s.picked);
  if (!document || !flat) return null;
  const regions = flat.regions.filter((r) => picked.includes(r.id));
  return (
    <>
      <FormChooser />
      {flat.problem && (
        <p
          role="alert"
          data-form-problem={flat.problem.field}
          className="border-error bg-error-wash mb-4 rounded-r-md border-l-4 px-3 py-2"
        >
          {flat.problem.message}
        </p>
      )}
      {hasHeights(document.form) && <Heights regions={regions} />}
      <FormNumbers />
      <BaseControls />
      <PrintPart />
    </>
  );
}

function wayOf(height: Region["height"]): Way {
  if (height === "through") return "through";
  return height > 0 ? "raised" : height < 0 ? "sunk" : "flush";
}

/** Height and filament of what is picked, or of everything for which nothing was decided. */
function Heights({ regions }: { regions: readonly Region[] }) {
  const document = useDocument();
  const flat = useShown();
  const units = useUnits();
  const ids = new Set(regions.map((region) => region.id));
  const ofAll = useOverlaid("set-defaults");
  const ofThese = useOverlaid(
    "set-regions",
    ({ picked }) => picked.length === ids.size && picked.every((region) => ids.has(region.id)),
  );
  const { previewEdit, commit } = useBench.getState();
  const wrong = useProblemAt("height", "default_height");
  if (!document || !flat) return null;
  const none = regions.length === 0;
  const first = regions[0];
  const drafted: { height?: number | "through" | null } = none ? ofAll : ofThese;
  const height = drafted.height ?? first?.height ?? document.default_height;
  const mixed = drafted.height === undefined && regions.some((r) => r.height !== height);
  const way = mixed ? "" : wayOf(height);
  const filaments = new Set(none ? [document.default_filament] : regions.map((r) => r.filament));
  const edit = (change: { height?: number | "through" | null; filament?: string | null }): Edit =>
    none ? { do: "set-defaults", ...change } : regionsEdit(regions, change);
  const thickness = supportThickness(document);
  const sinks = thickness > 0;
  const size = typeof height === "number" ? Math.abs(height) : RAISED;
  const sign = way === "sunk" ? -1 : 1;
  const choose = (next: Way) => {
    if (next === "through") commit(edit({ height: "through" }));
    else if (next === "flush") commit(edit({ height: 0 }));
    else if (next === "sunk") commit(edit({ height: -Math.min(size || RAISED, thickness / 2) }));
    else commit(edit({ height: size || RAISED }));
  };
  const decided = regions.some((r) => r.decided_height || r.decided_filament);
  const name = none
    ? "Every region"
    : regions.length === 1
      ? (first?.name ?? "")
      : `${regions.length} regions`;
  return (
    <Section name={name} side={none ? "default" : regions.length === 1 ? "picked" : "picked together"}>
      {regions.length === 1 && first && <RegionName region={first} />}
      <Choice
        label="Raised or sunk"
        value={way}
        options={sinks ? WAYS : WAYS.filter((w) => w.value === "raised" || w.value === "through")}
        onChange={choose}
      />
      {(way === "raised" || way === "sunk" || mixed) && (
        <SliderField
          label={way === "sunk" ? "Depth" : "Height"}
          value={size}
          notation={lengths(units)}
          min={LOWEST}
          max={way === "sunk" ? Math.max(LOWEST, thickness - LOWEST) : HIGHEST}
          sliderMax={way === "sunk" ? Math.max(LOWEST, thickness - LOWEST) : SLIDER_TOP}
          problem={wrong}
          step={units === "mm" ? 0.05 : 25.4 / 256}
          onPreview={(value) => previewEdit(edit({ height: sign * value }))}
          onCommit={(value) => commit(edit({ height: sign * value }))}
        >
          {way === "sunk"
            ? `${formatLength(thickness - size, units)} ${unitName(units)} left underneath`
            : sinks
              ? "above the base"
              : "from the plate"}
        </SliderField>
      )}
      {(way === "raised" || way === "sunk") && hasEdges(document.form) && (
        <EdgeControls
          edge={first?.edge ?? document.default_edge}
          onChange={(edge) => commit(none ? { do: "set-defaults", edge } : regionsEdit(regions, { edge }))}
        />
      )}
      {way !== "through" && way !== "sunk" && (
        <FilamentPicker
          label="Filament"
          value={filaments.size === 1 ? ([...filaments][0] ?? "") : ""}
          onChange={(filament) => commit(edit({ filament }))}
        />
      )}
      {none ? (
        <p className="text-soft mt-1 text-[12.5px]">
          Pick regions to give them a height and filament of their own.
        </p>
      ) : (
        decided && (
          <button
            type="button"
            className="text-act mt-1 text-xs font-semibold hover:underline"
            onClick={() => commit(edit({ height: null, filament: null }))}
          >
            back to the default
          </button>
        )
      )}
    </Section>
  );
}

const EDGES = [
  { value: "straight", name: "straight" },
  { value: "bevel", name: "bevel" },
  { value: "round", name: "round" },
  { value: "draft", name: "draft" },
] as const;

/** How the edge of what is picked falls off. */
function EdgeControls({ edge, onChange }: { edge: EdgeOptions; onChange: (edge: EdgeOptions) => void }) {
  const units = useUnits();
  const kind = edge.kind;
  return (
    <div className="mb-1.5 space-y-1.5">
      <Choice
        label="Edge"
        value={kind}
        options={EDGES}
        onChange={(next) => onChange({ ...edge, kind: next })}
      />
      {(kind === "bevel" || kind === "round") && (
        <NumberField
          label={kind === "bevel" ? "Bevel" : "Radius"}
          notation={lengths(units)}
          value={edge.size}
          min={0.05}
          max={20}
          step={0.1}
          onCommit={(size) => onChange({ ...edge, size })}
        />
      )}
      {kind === "draft" && (
        <NumberField
          label="Draft"
          notation={{ ...PLAIN, unit: "°" }}
          value={edge.angle}
          min={1}
          max={60}
          step={1}
          onCommit={(angle) => onChange({ ...edge, angle })}
        />
      )}
    </div>
  );
}

function RegionName({ region }: { region: Region }) {
  const { commit } = useBench.getState();
  return (
    <label className="mb-2 grid grid-cols-[1fr_150px] items-center">
      Name
      <input
        key={region.id + region.name}
        defaultValue={region.name}
        maxLength={120}
        className="border-hair bg-sheet focus:border-act h-8 min-w-0 rounded-md border px-2 outline-none"
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== region.name) commit(regionsEdit([region], { name }));
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
    </label>
  );
}

type Base = Document["base"];
const SIZES = [
  { value: "margin", name: "Margin" },
  { value: "typed", name: "Exact size" },
] as const;
const FOLLOWS = [
  { value: "art", name: "Centred on the art" },
  { value: "fixed", name: "Fixed" },
] as const;

/** Whether the base's width and depth do not hang on the art. */
function ownSize(base: Base): boolean {
  return standsAlone({ base } as Document);
}

/** The base with a size of its own, as large as it is now, or with a margin round the art. */
function sizeOf(shape: Base["shape"], typed: boolean, flat: Flat | null): Partial<Base> {
  if (!typed) return { sides: null, diameter: null };
  const [, , width = 60, depth = 40] = flat?.base_box ?? [];
  const round = (mm: number) => Math.max(1, Math.round(mm * 10) / 10);
  return shape === "circle" ? { diameter: round(width) } : { sides: [round(width), round(depth)] };
}

/** Whether the base goes where the art's middle is, or stays in a place of its own. */
function BasePlace({ at, set }: { at: Base["at"]; set: (change: Partial<Base>) => Edit }) {
  const flat = useShown();
  const units = useUnits();
  const commit = useBench((s) => s.commit);
  const [x, y, w, d] = flat?.base_box ?? [0, 0, 0, 0];
  const field = (axis: 0 | 1) => (
    <NumberField
      label={axis === 0 ? "Middle, across" : "Middle, down"}
      notation={lengths(units)}
      value={at?.[axis] ?? 0}
      min={-5000}
      max={5000}
      step={1}
      onCommit={(mm) => at && commit(set({ at: axis === 0 ? [mm, at[1]] : [at[0], mm] }))}
    />
  );
  return (
    <div className="my-1.5 space-y-1.5">
      <Choice
        label="Place of the base"
        value={at ? "fixed" : "art"}
        options={FOLLOWS}
        onChange={(how) => commit(set({ at: how === "art" ? null : [x + w / 2, y + d / 2] }))}
      />
      {at && field(0)}
      {at && field(1)}
    </div>
  );
}

function BaseControls() {
  const document = useDocument();
  const units = useUnits();
  const { previewEdit, commit } = useBench.getState();
  const given = useOverlaid("set-base");
  const flat = useShown();
  const thin = useProblemAt("base.thickness");
  const narrow = useProblemAt("base.margin");
  if (!document) return null;
  const base = { ...document.base, ...given } as Base;
  const set = (change: Omit<Extract<Edit, { do: "set-base" }>, "do">): Edit => ({
    do: "set-base",
    ...change,
  });
  const notation = lengths(units);
  const form = document.form;
  const support = supportName(form);
  if (!support)
    return (
      <Section name="Filament">
        <FilamentPicker
          label="Filament of the cutter"
          value={base.filament}
          onChange={(filament) => commit(set({ filament }))}
        />
      </Section>
    );
  return (
    <Section name={support}>
      <Choice
        label="Shape of the base"
        value={base.shape}
        options={form === "relief" ? BASES : BASES.slice(0, 3)}
        onChange={(shape) => commit(set({ shape }))}
      />
      {base.shape !== "none" && (
        <>
          {hasBaseThickness(form) && (
            <SliderField
              label="Thickness"
              problem={thin}
              value={base.thickness}
              notation={notation}
              min={0.2}
              max={500}
              sliderMax={10}
              step={0.1}
              onPreview={(thickness) => previewEdit(set({ thickness }))}
              onCommit={(thickness) => commit(set({ thickness }))}
            />
          )}
          {base.shape !== "outline" && base.shape !== "block" && (
            <Choice
              label="Size of the base"
              value={ownSize(base) ? "typed" : "margin"}
              options={SIZES}
              onChange={(how) => commit(set(sizeOf(base.shape, how === "typed", flat)))}
            />
          )}
          {!ownSize(base) && (
            <SliderField
              label="Margin"
              problem={narrow}
              value={base.margin}
              notation={notation}
              min={-500}
              max={500}
              sliderMin={0}
              sliderMax={20}
              step={0.5}
              onPreview={(margin) => previewEdit(set({ margin }))}
              onCommit={(margin) => commit(set({ margin }))}
            />
          )}
          {base.shape === "circle" && base.diameter !== null && (
            <NumberField
              label="Diameter of the base"
              value={base.diameter}
              notation={notation}
              min={0.5}
              max={2000}
              step={1}
              onCommit={(diameter) => commit(set({ diameter }))}
            />
          )}
          {(base.shape === "block" || (base.shape === "rectangle" && base.sides)) && (
            <div className="space-y-1.5">
              {(["Width of the block", "Depth of the block"] as const).map((label, i) => (
                <NumberField
                  key={label}
                  label={base.shape === "block" ? label : label.replace("block", "base")}
                  value={(base.shape === "block" ? base.block : (base.sides ?? base.block))[i === 0 ? 0 : 1]}
                  notation={notation}
                  min={0.5}
                  max={2000}
                  step={1}
                  onCommit={(mm) => {
                    const name = base.shape === "block" ? "block" : "sides";
                    const [w, d] = base.shape === "block" ? base.block : (base.sides ?? base.block);
                    commit(set({ [name]: i === 0 ? [mm, d] : [w, mm] }));
                  }}
                />
              ))}
            </div>
          )}
          {base.shape !== "outline" && <BasePlace at={base.at} set={set} />}
          {base.shape === "outline" && document.form === "relief" && (
            <SwitchField
              label="Keep holes open"
              checked={base.keep_holes}
              onChange={(keep_holes) => commit(set({ keep_holes }))}
            />
          )}
          {(base.shape === "rectangle" || base.shape === "block") && (
            <NumberField
              label="Corner radius"
              value={base.corner_radius}
              notation={notation}
              min={0}
              max={500}
              step={0.5}
              onCommit={(corner_radius) => commit(set({ corner_radius }))}
            />
          )}
          <FilamentPicker
            label="Filament of the base"
            value={base.filament}
            onChange={(filament) => commit(set({ filament }))}
          />
        </>
      )}
    </Section>
  );
}
