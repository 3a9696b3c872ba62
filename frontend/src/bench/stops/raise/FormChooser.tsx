import { Button } from "../../../ui/Button";
import { Choice, NumberField, PLAIN, SliderField, SwitchField } from "../../../ui/fields";
import type { Document, Edit, Flat } from "../../../api/client";
import { colourOf, useDocument, useProblemAt, useShown, useUnits } from "../../select";
import { useOverlaid } from "../../overlaid";
import { useBench } from "../../store";
import { Fold, lengths, Section } from "../parts";
import { Outcome } from "./Outcome";

type Form = NonNullable<Document["form"]>;
type SetForm = Extract<Edit, { do: "set-form" }>;

const FORMS: readonly { value: Form; name: string; does: string }[] = [
  {
    value: "relief",
    name: "Relief",
    does: "Regions raised from a base, sunk into it, flush or cut through.",
  },
  { value: "stamp", name: "Stamp", does: "The art raised on a plate, mirrored, so that it prints as drawn." },
  {
    value: "cutter",
    name: "Cutter",
    does: "A blade round the silhouette; inner lines press into the dough.",
  },
  {
    value: "nameplate",
    name: "Nameplate",
    does: "Letters on a backing that holds them together, with a loop.",
  },
];
/** More regions than this make no small picture. */
const MOST = 120;

const set = (change: Omit<SetForm, "do">): Edit => ({ do: "set-form", ...change });
const commit = (change: Omit<SetForm, "do">) => useBench.getState().commit(set(change));
/** Changes numbers of a form as they stand when the changes before are made. */
const commitNumbers = <K extends Document["form"]>(
  form: K,
  shown: Document[K],
  change: Partial<Document[K]>,
) => useBench.getState().commit((document) => set({ [form]: { ...shown, ...document[form], ...change } }));
const preview = (change: Omit<SetForm, "do">) => useBench.getState().previewEdit(set(change));

/** The four forms, each shown with the maker's own outlines. */
export function FormChooser() {
  const document = useDocument();
  const flat = useShown();
  if (!document || !flat) return null;
  const form = document.form;
  return (
    <Section name="Form" side={FORMS.find((f) => f.value === form)?.name}>
      <div role="radiogroup" aria-label="Form" className="grid grid-cols-4 gap-1">
        {FORMS.map(({ value, name, does }) => (
          <button
            key={value}
            type="button"
            role="radio"
            aria-checked={form === value}
            aria-label={name}
            title={does}
            onClick={() => form !== value && commit({ form: value })}
            className="border-hair bg-sheet hover:border-act aria-checked:border-act aria-checked:bg-act-wash rounded-md border p-1"
          >
            <Sketch form={value} flat={flat} document={document} />
            <span className="-mx-1 block text-[10.5px]">{name}</span>
          </button>
        ))}
      </div>
      <p className="text-soft mt-1.5 text-[12.5px]">{FORMS.find((f) => f.value === form)?.does}</p>
    </Section>
  );
}

function Sketch({ form, flat, document }: { form: Form; flat: Flat; document: Document }) {
  const pad = 0.22 * Math.max(flat.width, flat.height, 1);
  const box = [flat.left - pad, flat.top - pad, flat.width + 2 * pad, flat.height + 2 * pad];
  const regions = flat.regions.filter((r) => !r.left_out).slice(0, MOST);
  const wide = pad * 0.55;
  const middle = flat.left + flat.width / 2;
  const paths = (fill: (filament: string) => string) =>
    regions.map((r) => <path key={r.id} d={r.path} fill={fill(r.filament)} fillRule="evenodd" />);
  const round = (colour: string, width: number) => (
    <g stroke={colour} strokeWidth={width} strokeLinejoin="round" fill={colour}>
      {regions.map((r) => (
        <path key={r.id} d={r.path.split(/(?=M)/)[0]} />
      ))}
    </g>
  );
  return (
    <svg viewBox={box.join(" ")} className="h-11 w-full" aria-hidden>
      {form === "relief" && (
        <>
          {round(colourOf(document, document.base.filament), wide * 1.4)}
          {paths((f) => colourOf(document, f))}
        </>
      )}
      {form === "stamp" && (
        <g transform={`translate(${2 * middle} 0) scale(-1 1)`}>
          {round("var(--rule)", wide * 1.6)}
          {paths(() => "var(--ink)")}
        </g>
      )}
      {form === "cutter" && (
        <>
          {round("var(--soft)", wide * 1.5)}
          {round("var(--ink)", wide * 0.6)}
          {round("var(--sheet)", 0)}
        </>
      )}
      {form === "nameplate" && (
        <>
          <circle
            cx={flat.left}
            cy={flat.top}
            r={wide * 0.7}
            fill="none"
            stroke={colourOf(document, document.base.filament)}
            strokeWidth={wide * 0.6}
          />
          {round(colourOf(document, document.base.filament), wide * 1.5)}
          {paths(() => colourOf(document, document.default_filament))}
        </>
      )}
    </svg>
  );
}

/** Numbers with those that the hand would have instead; what it leaves out stays. */
function merged<T extends object>(kept: T, drafted: object | null | undefined): T {
  return { ...kept, ...drafted } as T;
}

/** The numbers of the form that is chosen. */
export function FormNumbers() {
  const document = useDocument();
  const flat = useShown();
  const drafted = useOverlaid("set-form");
  if (!document || !flat) return null;
  const form = document.form;
  if (form === "relief") return <ReliefNumbers numbers={{ ...document.relief, ...drafted.relief }} />;
  if (form === "stamp") return <StampNumbers numbers={merged(document.stamp, drafted.stamp)} />;
  if (form === "cutter") return <CutterNumbers numbers={{ ...document.cutter, ...drafted.cutter }} />;
  return <NameplateNumbers numbers={merged(document.nameplate, drafted.nameplate)} />;
}

function Length({
  label,
  value,
  max,
  min = 0,
  top,
  step = 0.1,
  field,
  onChange,
  onPreview,
}: {
  label: string;
  /** What the number is called where the form is worked out. */
  field?: string;
  value: number;
  max: number;
  min?: number;
  top?: number;
  step?: number;
  onChange: (mm: number) => void;
  onPreview?: (mm: number) => void;
}) {
  const units = useUnits();
  const problem = useProblemAt(field ?? "");
  const shared = { label, value, min, max, step, problem, notation: lengths(units), onCommit: onChange };
  return onPreview ? (
    <SliderField {...shared} sliderMax={top ?? max} onPreview={onPreview} />
  ) : (
    <NumberField {...shared} />
  );
}

type Relief = NonNullable<Document["relief"]>;

function ReliefNumbers({ numbers }: { numbers: Relief }) {
  const put = (change: Partial<Relief>) => commitNumbers("relief", numbers, change);
  return (
    <Fold name="Rim, inlays, top">
      <div className="space-y-1.5">
        <Length
          label="Inlay depth"
          field="relief.inlay"
          value={numbers.inlay}
          min={0.02}
          max={100}
          onChange={(inlay) => put({ inlay })}
        />
        <Length
          label="Rim width"
          field="relief.rim_width"
          value={numbers.rim_width}
          max={100}
          step={0.5}
          onChange={(rim_width) => put({ rim_width })}
        />
        {numbers.rim_width > 0 && (
          <Length
            label="Rim height"
            field="relief.rim_height"
            value={numbers.rim_height}
            min={0.02}
            max={100}
            onChange={(rim_height) => put({ rim_height })}
          />
        )}
      </div>
      <SwitchField
        label="Flat top for a cup"
        checked={numbers.flat_top}
        onChange={(flat_top) => put({ flat_top })}
      />
      <SwitchField
        label="Trim what reaches past the base"
        checked={numbers.clip}
        onChange={(clip) => put({ clip })}
      />
    </Fold>
  );
}

type Stamp = NonNullable<Document["stamp"]>;

/** Knobs and bars by the hand that holds them, mm. */
const HANDS = [
  { name: "Usual size", knob: { diameter: 16, height: 18 }, bar: { diameter: 16, height: 18, length: 40 } },
  { name: "Child’s hand", knob: { diameter: 28, height: 30 }, bar: { diameter: 24, height: 28, length: 60 } },
] as const;

function StampNumbers({ numbers }: { numbers: Stamp }) {
  const put = (change: Partial<Stamp>) => commitNumbers("stamp", numbers, change);
  const grip = numbers.grip;
  const kind = grip.kind;
  return (
    <>
      <Section name="Stamp">
        <Length
          label="Relief depth"
          field="stamp.depth"
          value={numbers.depth}
          min={0.2}
          max={50}
          top={6}
          onPreview={(depth) => preview({ stamp: { ...numbers, depth } })}
          onChange={(depth) => put({ depth })}
        />
        <div className="space-y-1.5">
          <Length
            label="Backing plate"
            field="stamp.thickness"
            value={numbers.thickness}
            min={0.4}
            max={100}
            onChange={(thickness) => put({ thickness })}
          />
          <NumberField
            label="Draft"
            notation={{ ...PLAIN, unit: "°" }}
            value={numbers.draft}
            min={0}
            max={45}
            step={1}
            onCommit={(draft) => put({ draft })}
          />
        </div>
        <SwitchField
          label="Mark on the back for up"
          checked={numbers.mark}
          onChange={(mark) => put({ mark })}
        />
        <Choice
          label="Grip"
          value={kind}
          options={[
            { value: "none", name: "no grip" },
            { value: "knob", name: "knob" },
            { value: "bar", name: "bar" },
            { value: "socket", name: "socket" },
          ]}
          onChange={(next) =>
            put({
              grip: {
                ...grip,
                kind: next,
                // In one with its plate a grip would hang in the air while it is printed.
                joint: kind === "knob" || kind === "bar" ? grip.joint : "peg",
                height: null,
                diameter: next === "socket" ? 8 : grip.diameter,
              },
            })
          }
        />
        {(kind === "knob" || kind === "bar") && (
          <div role="group" aria-label="Size of the grip" className="mt-1.5 grid grid-cols-2 gap-1">
            {HANDS.map(({ name, ...size }) => (
              <Button
                key={name}
                className="aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px]"
                aria-pressed={
                  grip.diameter === size[kind].diameter && (grip.height ?? 18) === size[kind].height
                }
                onClick={() => put({ grip: { ...grip, ...size[kind] } })}
              >
                {name}
              </Button>
            ))}
          </div>
        )}
        {kind !== "none" && (
          <div className="mt-1.5 space-y-1.5">
            <Length
              label={kind === "bar" ? "Bar width" : kind === "socket" ? "Peg diameter" : "Knob diameter"}
              value={grip.diameter}
              min={1}
              max={200}
              step={0.5}
              onChange={(diameter) => put({ grip: { ...grip, diameter } })}
            />
            <Length
              label={kind === "socket" ? "Socket depth" : "Grip height"}
              value={grip.height ?? (kind === "socket" ? 2.2 : 18)}
              min={1}
              max={200}
              step={0.5}
              onChange={(height) => put({ grip: { ...grip, height } })}
            />
            {kind === "bar" && (
              <Length
                label="Bar length"
                value={grip.length}
                min={1}
                max={200}
                step={1}
                onChange={(length) => put({ grip: { ...grip, length } })}
              />
            )}
            {kind !== "socket" && (
              <Joint grip={grip} onChange={(change) => put({ grip: { ...grip, ...change } })} />
            )}
          </div>
        )}
      </Section>
      <Outcome form="stamp" />
    </>
  );
}

/** How a knob or bar is held by its plate. */
function Joint({
  grip,
  onChange,
}: {
  grip: Stamp["grip"];
  onChange: (change: Partial<Stamp["grip"]>) => void;
}) {
  return (
    <>
      <Choice
        label="Joint"
        value={grip.joint}
        options={[
          { value: "peg", name: "peg and hole" },
          { value: "joined", name: "one piece" },
        ]}
        onChange={(joint) => onChange({ joint })}
      />
      {grip.joint === "peg" ? (
        <>
          <Length
            label="Peg width"
            field="stamp.grip.peg"
            value={grip.peg ?? Math.min(grip.diameter / 2, 8)}
            min={1}
            max={100}
            step={0.5}
            onChange={(peg) => onChange({ peg })}
          />
          <Length
            label="Clearance"
            field="stamp.grip.clearance"
            value={grip.clearance}
            max={2}
            step={0.05}
            onChange={(clearance) => onChange({ clearance })}
          />
          <p className="text-soft text-[12.5px]">
            Printed beside the stamp, standing on the end you hold. Press or glue the peg into the back.
          </p>
        </>
      ) : (
        <p className="text-soft text-[12.5px]">The plate hangs over the grip, so it needs supports.</p>
      )}
    </>
  );
}

type Cutter = NonNullable<Document["cutter"]>;

/** Grips by the hand that holds them, mm. */
const GRIPS: readonly { name: string; numbers: Partial<Cutter> }[] = [
  { name: "Thin flange", numbers: { flange_width: 4, flange_height: 3, flange_round: 0, depth: 14 } },
  { name: "Deep grip", numbers: { flange_width: 5, flange_height: 7, flange_round: 1.6, depth: 18 } },
  { name: "Child’s hand", numbers: { flange_width: 7, flange_height: 9, flange_round: 2.4, depth: 22 } },
];

function CutterNumbers({ numbers }: { numbers: Cutter }) {
  const put = (change: Partial<Cutter>) => commitNumbers("cutter", numbers, change);
  return (
    <>
      <Section name="Cutter">
        <Length
          label="Depth"
          field="cutter.depth"
          value={numbers.depth}
          min={2}
          max={200}
          top={30}
          step={0.5}
          onPreview={(depth) => preview({ cutter: { ...numbers, depth } })}
          onChange={(depth) => put({ depth })}
        />
        <p className="mb-1">Grip</p>
        <div role="group" aria-label="Grip" className="mb-1.5 grid grid-cols-3 gap-1">
          {GRIPS.map(({ name, numbers: grip }) => (
            <Button
              key={name}
              className="aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px]"
              aria-pressed={Object.entries(grip).every(([key, v]) => numbers[key as keyof Cutter] === v)}
              onClick={() => put(grip)}
            >
              {name}
            </Button>
          ))}
        </div>
        <SwitchField
          label="Handle bar across the back"
          checked={numbers.handle}
          onChange={(handle) => put({ handle })}
        />
        <div className="space-y-1.5">
          {numbers.handle && (
            <Length
              label="Handle width"
              field="cutter.handle_width"
              value={numbers.handle_width}
              min={2}
              max={100}
              step={1}
              onChange={(handle_width) => put({ handle_width })}
            />
          )}
          <Length
            label="Flange width"
            field="cutter.flange_width"
            value={numbers.flange_width}
            max={100}
            step={0.5}
            onChange={(flange_width) => put({ flange_width })}
          />
          <Length
            label="Flange height"
            field="cutter.flange_height"
            value={numbers.flange_height}
            min={0.2}
            max={100}
            step={0.5}
            onChange={(flange_height) => put({ flange_height })}
          />
          <Length
            label="Rounded edges"
            field="cutter.flange_round"
            value={numbers.flange_round}
            max={20}
            step={0.2}
            onChange={(flange_round) => put({ flange_round })}
          />
        </div>
      </Section>
      <Fold name="Blade">
        <div className="space-y-1.5">
          <Length
            label="Edge thickness"
            field="cutter.edge"
            value={numbers.edge}
            min={0.1}
            max={10}
            onChange={(edge) => put({ edge })}
          />
          <Length
            label="Wall thickness"
            field="cutter.wall"
            value={numbers.wall}
            min={0.2}
            max={20}
            onChange={(wall) => put({ wall })}
          />
          <Length
            label="Tapers over"
            field="cutter.taper"
            value={numbers.taper}
            max={200}
            step={0.5}
            onChange={(taper) => put({ taper })}
          />
        </div>
      </Fold>
      <Fold name="Holes and inner lines">
        <SwitchField label="Cut large holes" checked={numbers.holes} onChange={(holes) => put({ holes })} />
        <SwitchField
          label="Press inner lines into the dough"
          checked={numbers.ribs}
          onChange={(ribs) => put({ ribs })}
        />
        {numbers.ribs && (
          <div className="space-y-1.5">
            <Length
              label="Rib width"
              field="cutter.rib_width"
              value={numbers.rib_width}
              min={0.2}
              max={20}
              onChange={(rib_width) => put({ rib_width })}
            />
            <Length
              label="Ribs end short by"
              field="cutter.rib_short"
              value={numbers.rib_short}
              max={200}
              step={0.5}
              onChange={(rib_short) => put({ rib_short })}
            />
            <Length
              label="Cross-bar width"
              field="cutter.bar_width"
              value={numbers.bar_width}
              min={0.4}
              max={50}
              step={0.5}
              onChange={(bar_width) => put({ bar_width })}
            />
          </div>
        )}
      </Fold>
      <Outcome form="cutter" />
    </>
  );
}

type Nameplate = NonNullable<Document["nameplate"]>;

function NameplateNumbers({ numbers }: { numbers: Nameplate }) {
  const put = (change: Partial<Nameplate>) => commitNumbers("nameplate", numbers, change);
  const fixing = numbers.fixing;
  const kind = fixing.kind;
  return (
    <>
      <Section name="Nameplate">
        <Length
          label="Backing"
          field="nameplate.thickness"
          value={numbers.thickness ?? 2.4}
          min={0.2}
          max={100}
          top={8}
          onPreview={(thickness) => preview({ nameplate: { ...numbers, thickness } })}
          onChange={(thickness) => put({ thickness })}
        />
        <div className="space-y-1.5">
          <Choice
            label="Loose letters"
            value={numbers.join}
            options={[
              { value: "grow", name: "wider backing" },
              { value: "tie", name: "ties" },
            ]}
            onChange={(join) => put({ join })}
          />
          {numbers.join === "tie" && (
            <Length
              label="Tie width"
              field="nameplate.tie_width"
              value={numbers.tie_width}
              min={0.4}
              max={50}
              onChange={(tie_width) => put({ tie_width })}
            />
          )}
          <Choice
            label="Fixing"
            value={kind}
            options={[
              { value: "loop", name: "key loop" },
              { value: "screws", name: "screws" },
              { value: "none", name: "none" },
            ]}
            onChange={(next) => put({ fixing: { ...fixing, kind: next } })}
          />
          {kind !== "none" && (
            <>
              <Length
                label="Hole diameter"
                value={fixing.inner}
                min={0.5}
                max={50}
                onChange={(inner) => put({ fixing: { ...fixing, inner } })}
              />
              <Length
                label="Wall around it"
                value={fixing.wall}
                min={0.4}
                max={50}
                onChange={(wall) => put({ fixing: { ...fixing, wall } })}
              />
            </>
          )}
          {kind === "loop" && (
            <Choice
              label="Where the loop sits"
              value={fixing.side}
              options={[
                { value: "auto", name: "auto" },
                { value: "left", name: "left" },
                { value: "top", name: "top" },
                { value: "right", name: "right" },
                { value: "bottom", name: "bottom" },
              ]}
              onChange={(side) => put({ fixing: { ...fixing, side } })}
            />
          )}
        </div>
      </Section>
      <Fold name="Frame and feet" open={numbers.frame_width > 0 || numbers.foot > 0}>
        <div className="space-y-1.5">
          <Length
            label="Frame width"
            field="nameplate.frame_width"
            value={numbers.frame_width}
            max={50}
            step={0.5}
            onChange={(frame_width) => put({ frame_width })}
          />
          {numbers.frame_width > 0 && (
            <Length
              label="Frame height"
              field="nameplate.frame_height"
              value={numbers.frame_height}
              min={0.1}
              max={50}
              onChange={(frame_height) => put({ frame_height })}
            />
          )}
          <NumberField
            label="Lean back on feet"
            notation={{ ...PLAIN, unit: "°" }}
            value={numbers.foot}
            min={0}
            max={60}
            step={5}
            onCommit={(foot) => put({ foot })}
          />
        </div>
      </Fold>
    </>
  );
}
