import { GripVertical } from "lucide-react";

const STEP = 0.02;

type Props = {
  /** Where it stands, as a share of the section's width. */
  at: number;
  onChange: (at: number) => void;
  left: string;
  right: string;
};

/** The handle between two states that are drawn over each other: to its left the one, to its right the other. */
export function WipeHandle({ at, onChange, left, right }: Props) {
  const to = (share: number) => onChange(Math.min(0.98, Math.max(0.02, share)));
  return (
    <div className="pointer-events-none absolute inset-y-[22px] z-10 w-0" style={{ left: `${at * 100}%` }}>
      <div className="bg-act absolute inset-y-0 -left-px w-0.5" />
      <span className="bg-sheet/85 text-soft absolute right-2 bottom-2 rounded px-1.5 text-xs whitespace-nowrap">
        {left}
      </span>
      <span className="bg-sheet/85 text-soft absolute bottom-2 left-2 rounded px-1.5 text-xs whitespace-nowrap">
        {right}
      </span>
      <div
        role="slider"
        tabIndex={0}
        aria-label="Wipe"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        className="border-act bg-sheet text-act pointer-events-auto absolute top-1/2 -left-3.5 grid size-7 cursor-ew-resize touch-none place-items-center rounded-full border"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => {
          if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
          const frame = event.currentTarget.closest("section")?.getBoundingClientRect();
          if (frame) to((event.clientX - frame.left) / frame.width);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowLeft") to(at - STEP);
          else if (event.key === "ArrowRight") to(at + STEP);
          else return;
          event.preventDefault();
        }}
      >
        <GripVertical size={15} aria-hidden />
      </div>
    </div>
  );
}
