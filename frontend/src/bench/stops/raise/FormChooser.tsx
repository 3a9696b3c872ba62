import type { Document } from "../../../api/client";
import { useDocument, useShown } from "../../select";
import { Section } from "../parts";
import { FormSketch } from "./FormSketch";
import { commit } from "./forms/setForm";

type Form = NonNullable<Document["form"]>;

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
            <FormSketch form={value} flat={flat} document={document} />
            <span className="-mx-1 block text-[10.5px]">{name}</span>
          </button>
        ))}
      </div>
      <p className="text-soft mt-1.5 text-[12.5px]">{FORMS.find((f) => f.value === form)?.does}</p>
    </Section>
  );
}
