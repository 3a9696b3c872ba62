import type { ComponentProps, ReactNode } from "react";

type Kind = "plain" | "act" | "quiet";

const LOOKS: Record<Kind, string> = {
  plain: "border-hair bg-sheet hover:border-act border",
  act: "border-act bg-act text-on-act border hover:opacity-90",
  quiet: "border border-transparent hover:bg-act-wash",
};

export function Button({
  kind = "plain",
  className = "",
  ...rest
}: ComponentProps<"button"> & { kind?: Kind }) {
  return (
    <button
      type="button"
      className={`inline-flex h-8 items-center justify-center gap-1.5 rounded-md px-3 font-medium whitespace-nowrap transition-colors disabled:opacity-40 [&>svg]:shrink-0 ${LOOKS[kind]} ${className}`}
      {...rest}
    />
  );
}

/** A button that takes a tool up, and puts it down again. */
export function ToolButton({ className = "", ...rest }: ComponentProps<"button">) {
  return (
    <Button
      className={`aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px] ${className}`}
      {...rest}
    />
  );
}

/** A button that shows only a sign; `label` names it for everybody. */
export function SignButton({
  label,
  pressed,
  className = "",
  children,
  ...rest
}: ComponentProps<"button"> & { label: string; pressed?: boolean; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      className={`text-soft hover:bg-act-wash hover:text-ink aria-pressed:bg-act-wash aria-pressed:text-act inline-grid size-8 place-items-center rounded-md transition-colors disabled:opacity-35 disabled:hover:bg-transparent ${className}`}
      {...rest}
    >
      {children}
    </button>
  );
}
