import type { ReactNode } from "react";

import { Mark } from "../ui/Mark";

/** A small sheet in the middle of an empty page, for what comes before the work. */
export function Card({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="grid h-full place-items-center overflow-y-auto p-6">
      <div className="w-[360px] max-w-full">
        <p className="mb-7 text-center">
          <Mark />
        </p>
        <section className="bg-sheet border-rule rounded-lg border p-6">
          <h1 className="mb-4 text-2xl">{title}</h1>
          {children}
        </section>
      </div>
    </main>
  );
}

type FieldProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  type?: "text" | "password";
  autoComplete: string;
  hint?: string;
  wrong?: string | undefined;
  autoFocus?: boolean;
  inputMode?: "numeric";
};

/** A line to fill in; what is wrong with it stands below. */
export function Field({ label, value, onChange, hint, wrong, ...input }: FieldProps) {
  const id = `field-${label.replace(/\W+/g, "-").toLowerCase()}`;
  return (
    <div className="mb-3">
      <label htmlFor={id} className="mb-1 block">
        {label}
      </label>
      <input
        id={id}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        aria-invalid={Boolean(wrong)}
        aria-describedby={wrong || hint ? `${id}-told` : undefined}
        className={`bg-paper focus:border-act h-9 w-full rounded-md border px-2.5 outline-none ${wrong ? "border-error" : "border-hair"}`}
        {...input}
      />
      {(wrong ?? hint) && (
        <p id={`${id}-told`} className={`mt-1 text-xs ${wrong ? "text-error" : "text-soft"}`}>
          {wrong ?? hint}
        </p>
      )}
    </div>
  );
}
