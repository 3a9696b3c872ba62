import { inGrams, inTime } from "../bench/prove/words";
import type { Print } from "./usePrinter";

const WHEN = new Intl.DateTimeFormat(undefined, {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});
const SAID: Record<Print["state"], string> = {
  printing: "printing now",
  done: "done",
  stopped: "stopped",
  failed: "failed",
};

/** Prints, the newest first. */
export function History({ prints, titled = false }: { prints: readonly Print[]; titled?: boolean }) {
  return (
    <ul aria-label="Prints" className="border-rule border-t text-[13px]">
      {prints.map((print) => {
        const grams = Object.values(print.grams).reduce((sum, one) => sum + one, 0);
        return (
          <li key={print.id} className="border-rule border-b py-1.5">
            <p className="flex justify-between gap-3">
              <span className="truncate">{titled ? print.title : WHEN.format(new Date(print.begun))}</span>
              <span className={print.state === "failed" ? "text-error shrink-0" : "text-soft shrink-0"}>
                {SAID[print.state]}
                {print.ended && print.state !== "done" ? ` at layer ${print.layer} of ${print.layers}` : ""}
              </span>
            </p>
            <p className="text-soft text-[12.5px] tabular-nums">
              {titled ? `${WHEN.format(new Date(print.begun))} · ` : ""}
              {inTime(print.seconds)}
              {print.ended ? ` · ${inGrams(grams)}` : ""}
            </p>
            {print.state === "failed" && print.words && <p className="text-error">{print.words}</p>}
          </li>
        );
      })}
    </ul>
  );
}
