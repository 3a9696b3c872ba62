import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ArrowLeft, ArrowRight, Pipette, Plus, Settings2, Weight, X } from "lucide-react";
import { useState } from "react";

import { api, data, type Filament, type Schemas } from "../api/client";
import { Button, SignButton } from "../ui/Button";
import { Modal } from "../ui/Modal";
import { useNotices } from "../ui/notices";
import { Spool, Spools } from "../ui/Spools";
import { NumberField, PLAIN as PLAIN_NUMBER } from "../ui/fields";
import { freshId } from "./ids";
import { filamentsOf, useDocument } from "./select";
import { useBench } from "./store";

type Kept = Schemas["ShelfFilament"];

/** A piece has at most so many filaments. */
const MOST = 16;
const MATERIALS = ["PLA", "PETG", "ABS", "ASA", "TPU", "Nylon", "Wood PLA"];
const PLAIN = {
  name: "New filament",
  colour: "#8a8f98",
  material: "PLA",
  density: 1.24,
  diameter: 1.75,
  price: 22,
};

/** The piece's filaments to choose from, and the way to change them. */
export function FilamentPicker({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (id: string) => void;
}) {
  const document = useDocument();
  const [open, setOpen] = useState(false);
  return (
    <div className="flex items-start justify-between gap-2">
      <Spools label={label} filaments={filamentsOf(document)} value={value} onChange={onChange} />
      <Modal
        title="Filaments"
        open={open}
        onOpenChange={setOpen}
        className="max-h-[88vh] w-[760px] overflow-y-auto"
        trigger={
          <SignButton label="Change the filaments">
            <Settings2 size={15} />
          </SignButton>
        }
      >
        <FilamentTable close={() => setOpen(false)} />
      </Modal>
    </div>
  );
}

function FilamentTable({ close }: { close: () => void }) {
  const document = useDocument();
  const pictured = Boolean(document?.pictures.length);
  const { commit, setTool } = useBench.getState();
  const queries = useQueryClient();
  const fail = (error: Error) => useNotices.getState().refuse(error.message);
  const shelf = useQuery({
    queryKey: ["filaments"],
    queryFn: ({ signal }) => data(api.GET("/api/filaments", { signal })),
  });
  const onSuccess = (list: { filaments: Kept[] }) => queries.setQueryData(["filaments"], list);
  const put = useMutation({
    mutationFn: ({ id, ...body }: Kept) =>
      data(api.PUT("/api/filaments/{filament}", { params: { path: { filament: id } }, body })),
    onSuccess,
    onError: fail,
  });
  const drop = useMutation({
    mutationFn: (filament: string) =>
      data(api.DELETE("/api/filaments/{filament}", { params: { path: { filament } } })),
    onSuccess,
    onError: fail,
  });
  if (!document) return null;
  const own = document.filaments;
  const kept = shelf.data?.filaments ?? [];
  const full = own.length >= MOST;
  const set = ({ id, name, colour, material, density, diameter, price }: Filament) =>
    commit({ do: "set-filament", id, name, colour, material, density, diameter, price });
  const same = (a: Filament) => own.some((b) => b.id === a.id);
  return (
    <div className="grid grid-cols-2 gap-7">
      <datalist id="materials">
        {MATERIALS.map((material) => (
          <option key={material} value={material} />
        ))}
      </datalist>
      <section aria-label="Filaments of this piece">
        <h3 className="mb-1 text-[15px]">In this piece</h3>
        <p className="text-soft mb-2 text-[12.5px]">
          {own.length} of {MOST}. Changing one here changes this piece only.
        </p>
        <ul className="space-y-1.5">
          {own.map((filament) => (
            <FilamentRow key={filament.id} filament={filament} onChange={set}>
              <SignButton
                label={`Put ${filament.name} on the shelf`}
                className="size-7!"
                onClick={() => {
                  // What is left of a spool is the shelf's to know.
                  const weighed = kept.find((f) => f.id === filament.id)?.weighed ?? null;
                  put.mutate({ ...filament, weighed });
                }}
              >
                <ArrowRight size={14} />
              </SignButton>
              <SignButton
                label={`Remove ${filament.name} from the piece`}
                className="size-7!"
                disabled={own.length < 2}
                onClick={() => {
                  const instead = nearest(own, filament);
                  if (instead) commit({ do: "drop-filament", id: filament.id, instead: instead.id });
                }}
              >
                <X size={14} />
              </SignButton>
            </FilamentRow>
          ))}
        </ul>
        <div className="mt-2.5 flex gap-1.5">
          <Button disabled={full} onClick={() => set({ id: freshId("f"), ...PLAIN })}>
            <Plus size={14} aria-hidden /> Add one
          </Button>
          <Button
            disabled={full || !pictured}
            title={pictured ? undefined : "The piece has no picture"}
            onClick={() => {
              close();
              setTool("colour");
            }}
          >
            <Pipette size={14} aria-hidden /> Colour from the picture
          </Button>
        </div>
      </section>
      <section aria-label="Filament shelf">
        <h3 className="mb-1 text-[15px]">On the shelf</h3>
        <p className="text-soft mb-2 text-[12.5px]">Your spools; new pieces start with the first {MOST}.</p>
        <ul className="space-y-1.5">
          {kept.map((filament) => (
            <FilamentRow key={filament.id} filament={filament} onChange={(next) => put.mutate(next)} weighed>
              <SignButton
                label={`Use ${filament.name} in this piece`}
                className="size-7!"
                disabled={full && !same(filament)}
                onClick={() => set(filament)}
              >
                <ArrowLeft size={14} />
              </SignButton>
              <SignButton
                label={`Remove ${filament.name} from the shelf`}
                className="size-7!"
                onClick={() => drop.mutate(filament.id)}
              >
                <X size={14} />
              </SignButton>
            </FilamentRow>
          ))}
        </ul>
        {shelf.data && !kept.length && (
          <p className="text-soft text-[12.5px]">
            The shelf is empty. Add a spool, or put one of the piece’s on it.
          </p>
        )}
        <div className="mt-2.5 flex justify-between">
          <Button onClick={() => put.mutate({ id: freshId("f"), ...PLAIN, weighed: null })}>
            <Plus size={14} aria-hidden /> Add one
          </Button>
          <Button kind="act" onClick={close}>
            Done
          </Button>
        </div>
      </section>
    </div>
  );
}

/** The other filament whose colour is most like that of one. */
function nearest(filaments: readonly Filament[], one: Filament): Filament | undefined {
  const parts = (colour: string) => [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16));
  const own = parts(one.colour);
  const off = (other: Filament) =>
    Math.hypot(...parts(other.colour).map((value, i) => value - (own[i] ?? 0)));
  return filaments.filter((f) => f.id !== one.id).sort((a, b) => off(a) - off(b))[0];
}

/** A filament with its colour, name and material to be changed in place. */
function FilamentRow<F extends Filament & { weighed?: number | null }>({
  filament,
  onChange,
  weighed = false,
  children,
}: {
  filament: F;
  onChange: (filament: F) => void;
  /** Whether it is told how much is left of it. */
  weighed?: boolean;
  children: React.ReactNode;
}) {
  const [more, setMore] = useState(false);
  const number = (field: "density" | "diameter" | "price" | "weighed", label: string, unit: string) => (
    <NumberField
      label={label}
      value={filament[field] ?? 0}
      // What was never weighed is not nothing.
      notation={{ ...PLAIN_NUMBER, unit, ...(filament[field] === null ? { format: () => "" } : {}) }}
      min={field === "density" ? 0.2 : field === "diameter" ? 0.5 : 0}
      max={field === "density" ? 25 : field === "diameter" ? 5 : field === "price" ? 10_000 : 100_000}
      step={field === "weighed" ? 10 : field === "price" ? 1 : 0.01}
      onCommit={(value) => onChange({ ...filament, [field]: value })}
    />
  );
  const [colour, setColour] = useState<string | null>(null);
  const text = (field: "name" | "material", label: string) => (
    <input
      key={filament[field]}
      defaultValue={filament[field]}
      aria-label={`${label} of ${filament.name}`}
      list={field === "material" ? "materials" : undefined}
      maxLength={field === "name" ? 120 : 40}
      className="border-hair bg-sheet focus:border-act h-7 w-full min-w-0 rounded border px-1.5 text-[13px] outline-none"
      onBlur={(event) => {
        const typed = event.target.value.trim();
        if (typed !== filament[field] && (typed || field === "material"))
          onChange({ ...filament, [field]: typed });
      }}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
  return (
    <li className="grid grid-cols-[28px_1fr_74px_auto] items-center gap-1.5">
      <label className="relative grid size-7 cursor-pointer place-items-center" title="Change the colour">
        <Spool colour={colour ?? filament.colour} size={22} />
        <input
          type="color"
          aria-label={`Colour of ${filament.name}`}
          value={colour ?? filament.colour}
          className="absolute inset-0 cursor-pointer opacity-0"
          onChange={(event) => setColour(event.target.value)}
          onBlur={() => {
            if (colour && colour !== filament.colour) onChange({ ...filament, colour });
            setColour(null);
          }}
        />
      </label>
      {text("name", "Name")}
      {text("material", "Material")}
      <span className="flex">
        <SignButton
          label={`Weight and price of ${filament.name}`}
          className="size-7!"
          pressed={more}
          onClick={() => setMore(!more)}
        >
          <Weight size={14} />
        </SignButton>
        {children}
      </span>
      {more && (
        <div className="col-span-full space-y-1.5 pb-2 pl-8 text-[13px]">
          {number("price", "Price of a kilogram", "")}
          {weighed && number("weighed", "Left on the spool", "g")}
          {number("density", "Density", "g/cm³")}
          {number("diameter", "Diameter", "mm")}
        </div>
      )}
    </li>
  );
}
