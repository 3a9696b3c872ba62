import type { Schemas } from "../api/client";

export type Usage = Schemas["UsageOut"];
type Limits = Schemas["LimitsOut"];

/** How much somebody uses, in a line. */
export function usageWords({ pieces, megabytes, minutes }: Usage): string {
  const room = megabytes < 1 ? "under 1 MB" : `${Math.round(megabytes)} MB`;
  const time = minutes < 1 ? "under a minute" : `${Math.round(minutes)} min`;
  return `${pieces} piece${pieces === 1 ? "" : "s"}, ${room}, ${time} of computing today`;
}

type Machine = Schemas["MachineOut"];

/** How many workers of a machine can take a job. */
export function readyWords({ ready }: Machine): string {
  return ready === 0 ? "workers are starting" : `${ready} worker${ready === 1 ? "" : "s"} ready`;
}

/** What a machine is at, and what waits for it. */
export function jobsWords({ running, waiting, longest }: Machine): string {
  const runs = running ? `${running} running` : "idle";
  return waiting ? `${runs}, ${waiting} waiting, longest ${longest.toFixed(1)} s` : runs;
}

/** What is used up, if anything. */
export function usedUp({ pieces, megabytes, minutes, limits }: Usage): string | null {
  const full = [
    pieces >= limits.pieces && "pieces",
    megabytes >= limits.megabytes && "room",
    minutes >= limits.minutes && "computing",
  ].filter(Boolean);
  return full.length ? `Used up: ${full.join(", ")}` : null;
}

export const LIMITS: readonly {
  name: keyof Limits;
  label: string;
  unit: string;
  most: number;
  least: number;
}[] = [
  { name: "pieces", label: "Pieces", unit: "", most: 1_000_000, least: 0 },
  { name: "megabytes", label: "Room", unit: "MB", most: 10_000_000, least: 0 },
  { name: "minutes", label: "Computing a day", unit: "min", most: 100_000, least: 0 },
  { name: "jobs", label: "Jobs at once", unit: "", most: 1000, least: 1 },
];
