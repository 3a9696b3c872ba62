import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, Trash2 } from "lucide-react";
import { useState } from "react";

import { api, data, Refused, type Schemas } from "../api/client";
import { freshId } from "../bench/ids";
import { Button, SignButton } from "../ui/Button";
import { Choice, NumberField, PLAIN, type Notation } from "../ui/fields";
import { useNotices } from "../ui/notices";
import { Page } from "./Page";

type Printer = Schemas["Printer-Output"];
type Numbers = { [K in keyof Printer]: Printer[K] extends number ? K : never }[keyof Printer];
type Field<K> = readonly [label: string, field: K, unit: string, min: number, max: number, step: number];

const PRINTERS = ["printers"];
const in_ = (unit: string): Notation => ({ ...PLAIN, unit });

const HOT_END: readonly Field<Numbers>[] = [
  ["Nozzle", "nozzle", "mm", 0.1, 2, 0.1],
  ["Thinnest layer", "thinnest_layer", "mm", 0.02, 2, 0.02],
  ["Thickest layer", "thickest_layer", "mm", 0.02, 2, 0.02],
  ["Maximum flow", "flow", "mm³/s", 0.1, 200, 1],
  ["Retraction", "retraction", "mm", 0, 20, 0.1],
  ["Retraction time", "retraction_time", "s", 0, 5, 0.01],
];
const MOTION: readonly Field<Numbers>[] = [
  ["Acceleration", "acceleration", "mm/s²", 10, 100_000, 100],
  ["Corner speed (90°)", "corner_speed", "mm/s", 0.1, 500, 1],
  ["Minimum layer time", "least_layer_time", "s", 0, 120, 1],
  ["Warm-up time", "warm_up", "s", 0, 3600, 10],
];
const SPEEDS: readonly Field<keyof Printer["speeds"]>[] = [
  ["Outer walls", "outer_wall", "mm/s", 1, 1000, 10],
  ["Inner walls", "inner_wall", "mm/s", 1, 1000, 10],
  ["Skin", "skin", "mm/s", 1, 1000, 10],
  ["Infill", "infill", "mm/s", 1, 1000, 10],
  ["First layer", "first_layer", "mm/s", 1, 1000, 10],
  ["Travel", "travel", "mm/s", 1, 1000, 10],
];
const BEDS = [
  { value: "rectangle", name: "rectangle" },
  { value: "round", name: "round" },
] as const;
const CHANGES = [
  { value: "by hand", name: "by hand" },
  { value: "changer", name: "by an automatic changer" },
] as const;
const BY_HAND: Printer["change"] = { how: "by hand", minutes: 3 };
const CHANGER: Printer["change"] = { how: "changer", slots: 4, seconds: 60, purged: 140 };

/** The workshop's printers, each number open to be changed. */
export default function PrintersPage() {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const [picked, setPicked] = useState<string | null>(null);
  const shelf = useQuery({
    queryKey: PRINTERS,
    queryFn: ({ signal }) => data(api.GET("/api/printers", { signal })),
  });
  const onSuccess = (list: Schemas["PrinterList"]) => {
    queries.setQueryData(PRINTERS, list);
    void queries.invalidateQueries({ queryKey: ["rehearsal"] });
  };
  const onError = (error: Error) =>
    refuse(error instanceof Refused && error.field ? `${error.field}: ${error.message}` : error.message);
  const put = useMutation({
    mutationFn: (printer: Printer) =>
      data(api.PUT("/api/printers/{printer}", { params: { path: { printer: printer.id } }, body: printer })),
    onSuccess,
    onError,
  });
  const drop = useMutation({
    mutationFn: (printer: string) =>
      data(api.DELETE("/api/printers/{printer}", { params: { path: { printer } } })),
    onSuccess,
    onError,
  });
  const printers = shelf.data?.printers ?? [];
  const printer = printers.find((one) => one.id === picked) ?? printers[0];
  const copy = () => {
    if (!printer) return;
    const id = freshId("p");
    put.mutate({ ...printer, id, name: `${printer.name}, copy`.slice(0, 120) });
    setPicked(id);
  };
  return (
    <Page title="Printer settings">
      {shelf.isError && (
        <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-4 py-2">
          {shelf.error.message}
        </p>
      )}
      <div className="mx-auto grid max-w-5xl grid-cols-[220px_1fr] gap-10">
        <nav aria-label="Printers">
          <ul className="space-y-1">
            {printers.map((one) => (
              <li key={one.id}>
                <button
                  type="button"
                  aria-current={one.id === printer?.id}
                  onClick={() => setPicked(one.id)}
                  className="hover:bg-act-wash aria-[current=true]:bg-act-wash w-full rounded-md px-3 py-2 text-left"
                >
                  <span className="block font-semibold">{one.name}</span>
                  <span className="text-soft text-[13px]">
                    {one.bed === "round" ? `⌀ ${one.width}` : `${one.width} × ${one.depth}`} × {one.height} mm
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <Button className="mt-3 w-full" disabled={!printer} onClick={copy}>
            <Copy size={14} aria-hidden /> Add a copy
          </Button>
        </nav>
        {printer && (
          <Numbers
            key={printer.id}
            printer={printer}
            put={(next) => put.mutate(next)}
            remove={printers.length > 1 ? () => drop.mutate(printer.id) : null}
          />
        )}
      </div>
    </Page>
  );
}

function Numbers({
  printer,
  put,
  remove,
}: {
  printer: Printer;
  put: (printer: Printer) => void;
  remove: (() => void) | null;
}) {
  const set = (change: Partial<Printer>) => put({ ...printer, ...change });
  const number = ([label, field, unit, min, max, step]: Field<Numbers>) => (
    <NumberField
      key={field}
      label={label}
      value={printer[field]}
      notation={in_(unit)}
      min={min}
      max={max}
      step={step}
      onCommit={(value) => set({ [field]: value })}
    />
  );
  const { change } = printer;
  return (
    <div>
      <div className="mb-5 flex items-center gap-3">
        <input
          key={printer.name}
          aria-label="Name of the printer"
          defaultValue={printer.name}
          maxLength={120}
          onBlur={(event) => {
            const name = event.target.value.trim();
            if (name && name !== printer.name) set({ name });
          }}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
          className="font-head hover:border-hair focus:border-act focus:bg-sheet -ml-2 grow rounded-md border border-transparent px-2 py-1 text-2xl outline-none"
        />
        <SignButton
          label={remove ? `Remove ${printer.name}` : "You need at least one printer"}
          disabled={!remove}
          onClick={() => remove?.()}
        >
          <Trash2 size={16} />
        </SignButton>
      </div>
      <div className="grid grid-cols-2 items-start gap-x-10">
        <div className="space-y-7">
          <Group name="Bed">
            <Choice
              label="Shape of the bed"
              value={printer.bed}
              options={BEDS}
              onChange={(bed) => set({ bed })}
            />
            {number([printer.bed === "round" ? "Diameter" : "Width", "width", "mm", 1, 2000, 10])}
            {printer.bed === "rectangle" && number(["Depth", "depth", "mm", 1, 2000, 10])}
            {number(["Height", "height", "mm", 1, 2000, 10])}
          </Group>
          <Group name="Changing filament">
            <Choice
              label="How filament is changed"
              value={change.how}
              options={CHANGES}
              onChange={(how) => how !== change.how && set({ change: how === "changer" ? CHANGER : BY_HAND })}
            />
            {change.how === "by hand" ? (
              <NumberField
                label="Time per change"
                value={change.minutes}
                notation={in_("min")}
                min={0}
                max={240}
                step={1}
                onCommit={(minutes) => set({ change: { ...change, minutes } })}
              />
            ) : (
              (
                [
                  ["Slots", "slots", "", 1, 16, 1],
                  ["Time per change", "seconds", "s", 0, 3600, 5],
                  ["Purged per change", "purged", "mm³", 0, 5000, 10],
                ] as const
              ).map(([label, field, unit, min, max, step]) => (
                <NumberField
                  key={field}
                  label={label}
                  value={change[field]}
                  notation={in_(unit)}
                  min={min}
                  max={max}
                  step={step}
                  onCommit={(value) => set({ change: { ...change, [field]: value } })}
                />
              ))
            )}
          </Group>
          <Group name="Speeds">
            {SPEEDS.map(([label, field, unit, min, max, step]) => (
              <NumberField
                key={field}
                label={label}
                value={printer.speeds[field]}
                notation={in_(unit)}
                min={min}
                max={max}
                step={step}
                onCommit={(value) => set({ speeds: { ...printer.speeds, [field]: value } })}
              />
            ))}
          </Group>
        </div>
        <div className="space-y-7">
          <Group name="Nozzle">
            {HOT_END.map(number)}
            <NumberField
              label="Line width"
              value={printer.line ?? Math.round(110 * printer.nozzle) / 100}
              notation={in_("mm")}
              min={0.1}
              max={4}
              step={0.02}
              onCommit={(line) => set({ line })}
            />
            {printer.line !== null && (
              <button
                type="button"
                className="text-act text-[13px] hover:underline"
                onClick={() => set({ line: null })}
              >
                1.1 × the nozzle
              </button>
            )}
          </Group>
          <Group name="Motion">{MOTION.map(number)}</Group>
        </div>
      </div>
    </div>
  );
}

function Group({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <section aria-label={name}>
      <h2 className="border-rule mb-2 border-b pb-1 text-[17px]">{name}</h2>
      <div className="space-y-1.5">{children}</div>
    </section>
  );
}
