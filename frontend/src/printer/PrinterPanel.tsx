import { CircleStop, Pause, Play, Zap } from "lucide-react";
import { useState } from "react";

import { inGrams, inTime } from "../bench/prove/words";
import { Button } from "../ui/Button";
import { Choice, NumberField, PLAIN } from "../ui/fields";
import { isOpen, usePrinter, type Status } from "./usePrinter";

const PACES = [
  { value: "1", name: "real time" },
  { value: "60", name: "60 ×" },
  { value: "600", name: "600 ×" },
] as const;
/** What a phase is called, and whether somebody has to do something. */
const PHASES: Record<Status["phase"], { name: string; asks: boolean }> = {
  idle: { name: "The bed is free", asks: false },
  "warming up": { name: "Warming up", asks: false },
  printing: { name: "Printing", asks: false },
  "changing filament": { name: "Changing filament", asks: false },
  "waiting for a change": { name: "Waiting for you to change filament", asks: true },
  paused: { name: "Paused", asks: false },
  "out of filament": { name: "Out of filament", asks: true },
  failed: { name: "Failed", asks: true },
  stopped: { name: "Stopped", asks: false },
  done: { name: "Done", asks: false },
};

/** The printer's state, how far it is, and what can be done now. */
export function PrinterPanel() {
  const { device, act, pace } = usePrinter();
  const [grams, setGrams] = useState(1000);
  if (!device) return null;
  const { status } = device;
  if (!status)
    return (
      <p role="alert" className="border-remark bg-remark-wash rounded-r-md border-l-4 px-3 py-1.5">
        The printer does not answer. It is started again by itself; a print goes on where it was.
      </p>
    );
  const job = status.job;
  const open = isOpen(status);
  const phase = PHASES[status.phase];
  const share = status.total ? status.done / status.total : 0;
  const send = (what: Parameters<typeof act.mutate>[0]) => act.mutate(what);
  return (
    <section aria-label="Printer">
      <p className="flex items-baseline justify-between gap-3">
        <span role="status" className="text-[17px] font-semibold">
          {phase.name}
        </span>
        {job && <span className="text-soft truncate">{status.title}</span>}
      </p>
      {job && status.phase !== "idle" && (
        <>
          <div
            role="progressbar"
            aria-label="How far the print is"
            aria-valuenow={Math.round(100 * share)}
            className="bg-rule mt-2 h-2 overflow-hidden rounded-full"
          >
            <div className="bg-act h-full transition-[width]" style={{ width: `${100 * share}%` }} />
          </div>
          <p className="text-soft mt-1 flex justify-between text-[12.5px] tabular-nums">
            <span>
              layer {status.layer} of {status.of} · {status.z.toFixed(2)} mm
            </span>
            <span>{open ? `${inTime(status.total - status.done)} left` : inTime(status.done)}</span>
          </p>
        </>
      )}
      {status.words && (
        <p
          role={phase.asks ? "alert" : undefined}
          className={`mt-2 rounded-r-md border-l-4 px-3 py-1.5 ${status.phase === "failed" ? "border-error bg-error-wash" : "border-remark bg-remark-wash"}`}
        >
          {status.words}
        </p>
      )}
      {job && (
        <div className="mt-3 flex flex-wrap gap-2">
          {status.phase === "waiting for a change" && (
            <Button kind="act" onClick={() => send({ job, do: "confirm" })}>
              Filament changed, continue
            </Button>
          )}
          {status.phase === "out of filament" && (
            <div className="w-full space-y-2">
              <NumberField
                label="On the new spool"
                value={grams}
                notation={{ ...PLAIN, unit: "g" }}
                min={0}
                max={100_000}
                step={50}
                onCommit={setGrams}
              />
              <Button kind="act" onClick={() => send({ job, do: "refill", grams })}>
                Spool loaded, continue
              </Button>
            </div>
          )}
          {status.phase === "paused" && (
            <Button kind="act" onClick={() => send({ job, do: "resume" })}>
              <Play size={15} aria-hidden /> Resume
            </Button>
          )}
          {["warming up", "printing", "changing filament"].includes(status.phase) && (
            <Button onClick={() => send({ job, do: "pause" })}>
              <Pause size={15} aria-hidden /> Pause
            </Button>
          )}
          {open && (
            <Button onClick={() => send({ job, do: "stop" })}>
              <CircleStop size={15} aria-hidden /> Stop the print
            </Button>
          )}
          {open && (
            <Button onClick={() => send({ job, do: "fault" })} title="See what happens when a print fails">
              <Zap size={15} aria-hidden /> Make it fail
            </Button>
          )}
        </div>
      )}
      {job && Object.keys(status.used).length > 0 && (
        <p className="text-soft mt-2 text-[12.5px] tabular-nums">
          {inGrams(Object.values(status.used).reduce((sum, one) => sum + one, 0))} used so far
        </p>
      )}
      <div className="mt-3">
        <Choice
          label="Speed of the stand-in"
          value={String(status.speed)}
          options={PACES}
          onChange={(times) => pace.mutate(Number(times) as Status["speed"])}
        />
      </div>
    </section>
  );
}
