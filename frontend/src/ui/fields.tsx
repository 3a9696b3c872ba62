import { Slider as RadixSlider, Switch as RadixSwitch, ToggleGroup } from "radix-ui";
import { useEffect, useId, useRef, useState, type KeyboardEvent, type ReactNode } from "react";

import { trimmed } from "./length";

/** How a number is written and read. */
export type Notation = {
  parse: (text: string) => number | null;
  format: (value: number) => string;
  unit: string;
};

export const PLAIN: Notation = {
  parse: (text) => (/^-?\d*[.,]?\d+$/.test(text.trim()) ? Number(text.replace(",", ".")) : null),
  format: (value) => trimmed(value, 2),
  unit: "",
};

type NumberFieldProps = {
  label: string;
  value: number;
  notation: Notation;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  problem?: string | undefined;
  onPreview?: (value: number) => void;
  onCommit: (value: number) => void;
  hideLabel?: boolean;
};

const clamp = (value: number, min: number, max: number) => Math.min(max, Math.max(min, value));

/** A number with its unit. Up and Down step, with Shift tenfold; Escape gives up, Enter or leaving takes it. */
export function NumberField(props: NumberFieldProps) {
  const { label, value, notation, min, max, step, disabled, problem, onCommit, hideLabel } = props;
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const leaving = useRef(false);

  const take = (text: string) => {
    const read = notation.parse(text);
    if (read === null) {
      setWrong(true);
      return;
    }
    setWrong(false);
    setDraft(null);
    const next = clamp(read, min, max);
    if (Math.abs(next - value) > 1e-9) onCommit(next);
  };
  const key = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") take(event.currentTarget.value);
    if (event.key === "Escape") {
      leaving.current = true;
      setDraft(null);
      setWrong(false);
      event.currentTarget.blur();
      leaving.current = false;
    }
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      const by = (event.key === "ArrowUp" ? 1 : -1) * step * (event.shiftKey ? 10 : 1);
      const from = draft === null ? value : (notation.parse(draft) ?? value);
      setDraft(null);
      onCommit(clamp(Math.round((from + by) / step) * step, min, max));
    }
  };
  const bad = wrong || problem;
  return (
    <div className="grid grid-cols-[1fr_104px] items-center gap-x-2">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "truncate"}>
        {label}
      </label>
      <div
        className={`bg-sheet focus-within:border-act focus-within:ring-act flex h-8 items-center rounded-md border pr-2 focus-within:ring-1 ${hideLabel ? "col-span-2" : ""} ${bad ? "border-error" : "border-hair"}`}
      >
        <input
          id={id}
          className="w-full min-w-0 bg-transparent px-2 outline-none disabled:opacity-50"
          inputMode="decimal"
          autoComplete="off"
          disabled={disabled}
          value={draft ?? notation.format(value)}
          data-draft={draft !== null || undefined}
          aria-invalid={Boolean(bad)}
          aria-describedby={bad ? `${id}-why` : undefined}
          onFocus={(event) => event.currentTarget.select()}
          onChange={(event) => setDraft(event.currentTarget.value)}
          onBlur={(event) => draft !== null && !leaving.current && take(event.currentTarget.value)}
          onKeyDown={key}
        />
        <span className="text-soft select-none">{notation.unit}</span>
      </div>
      {wrong && (
        <p id={`${id}-why`} className="text-error col-span-2 mt-1 text-xs">
          Type a number{notation.unit && `, such as 12, 12mm, 0.5in or 1/4in`}.
        </p>
      )}
      {problem && !wrong && (
        // It stands below the group of fields for all to see; here it is told with the field.
        <p id={`${id}-why`} className="sr-only">
          {problem}
        </p>
      )}
    </div>
  );
}

type SliderFieldProps = NumberFieldProps & {
  /** The value that a double click on the name brings back; undefined hides that. */
  onReset?: (() => void) | undefined;
  resetName?: string | undefined;
  sliderMin?: number;
  sliderMax?: number;
  children?: ReactNode;
};

/** After so long (ms) without a key the value that keys have led to is taken. */
const KEYS_REST_MS = 350;

/** A slider with its number; it previews while it moves and commits when it is let go. */
export function SliderField(props: SliderFieldProps) {
  const {
    label,
    value,
    min,
    max,
    step,
    sliderMin,
    sliderMax,
    disabled,
    onPreview,
    onCommit,
    onReset,
    resetName,
    children,
  } = props;
  const [moving, setMoving] = useState<number | null>(null);
  const shown = moving ?? value;
  /** Keys come one after another: what they lead to is taken when they rest. */
  const byKey = useRef(false);
  const resting = useRef<{ timer: ReturnType<typeof setTimeout>; value: number } | null>(null);
  const commit = useRef(onCommit);
  useEffect(() => {
    commit.current = onCommit;
  });
  const take = () => {
    const waiting = resting.current;
    if (!waiting) return;
    clearTimeout(waiting.timer);
    resting.current = null;
    setMoving(null);
    commit.current(waiting.value);
  };
  useEffect(
    () => () => {
      if (!resting.current) return;
      clearTimeout(resting.current.timer);
      commit.current(resting.current.value);
    },
    [],
  );
  return (
    <div className="py-1">
      <div onDoubleClick={(event) => (event.target as HTMLElement).tagName === "LABEL" && onReset?.()}>
        <NumberField {...props} value={shown} />
      </div>
      <RadixSlider.Root
        className="relative flex h-6 touch-none items-center select-none"
        min={sliderMin ?? min}
        max={sliderMax ?? max}
        step={step}
        value={[clamp(shown, sliderMin ?? min, sliderMax ?? max)]}
        disabled={disabled ?? false}
        onValueChange={([next]) => {
          if (next === undefined) return;
          setMoving(next);
          onPreview?.(next);
        }}
        onKeyDown={() => (byKey.current = true)}
        onPointerDown={() => (byKey.current = false)}
        onBlur={take}
        onValueCommit={([next]) => {
          if (next === undefined) return;
          if (resting.current) clearTimeout(resting.current.timer);
          resting.current = null;
          if (byKey.current && onPreview) {
            resting.current = { timer: setTimeout(take, KEYS_REST_MS), value: next };
          } else {
            setMoving(null);
            onCommit(next);
          }
        }}
      >
        <RadixSlider.Track className="bg-hair relative h-[3px] grow rounded-full">
          <RadixSlider.Range className="bg-act absolute h-full rounded-full" />
        </RadixSlider.Track>
        <RadixSlider.Thumb
          aria-label={`${label}, slider`}
          className="border-act bg-sheet block size-3.5 rotate-45 rounded-[3px] border-2"
        />
      </RadixSlider.Root>
      {(children || onReset) && (
        <div className="text-soft -mt-1 flex items-center justify-between text-xs">
          <span>{children}</span>
          {onReset && (
            <button type="button" className="text-act font-semibold hover:underline" onClick={onReset}>
              {resetName ?? "reset"}
            </button>
          )}
        </div>
      )}
    </div>
  );
}

/** A line of text; Enter or leaving takes it, Escape gives up. */
export function TextField({
  label,
  value,
  placeholder,
  maxLength,
  onCommit,
}: {
  label: string;
  value: string;
  placeholder?: string;
  maxLength: number;
  onCommit: (text: string) => void;
}) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const take = () => {
    if (draft !== null && draft.trim() !== value) onCommit(draft.trim());
    setDraft(null);
  };
  return (
    <div className="py-1">
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        className="bg-sheet border-hair focus:border-act mt-1 h-8 w-full rounded-md border px-2 outline-none"
        autoComplete="off"
        placeholder={placeholder}
        maxLength={maxLength}
        value={draft ?? value}
        onChange={(event) => setDraft(event.currentTarget.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") setDraft(null);
        }}
      />
    </div>
  );
}

export function SwitchField({
  label,
  checked,
  disabled = false,
  onChange,
}: {
  label: string;
  checked: boolean;
  disabled?: boolean;
  onChange: (on: boolean) => void;
}) {
  const id = useId();
  return (
    <div className="flex h-9 items-center justify-between">
      <label htmlFor={id}>{label}</label>
      <RadixSwitch.Root
        id={id}
        checked={checked}
        disabled={disabled}
        onCheckedChange={onChange}
        className="bg-hair data-[state=checked]:bg-act relative h-[18px] w-8 rounded-full transition-colors disabled:opacity-50"
      >
        <RadixSwitch.Thumb className="bg-sheet block size-3.5 translate-x-0.5 rounded-full transition-transform data-[state=checked]:translate-x-4" />
      </RadixSwitch.Root>
    </div>
  );
}

/** A few choices of which one holds. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T | "";
  options: readonly { value: T; name: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="border-hair bg-sheet flex overflow-hidden rounded-md border"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="border-rule hover:bg-act-wash data-[state=on]:bg-ink data-[state=on]:text-paper h-8 flex-auto border-l px-1 text-[12.5px] first:border-l-0 focus-visible:-outline-offset-2"
        >
          {option.name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
