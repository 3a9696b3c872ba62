import { create } from "zustand";

import type { Point } from "../flat/place";
import { recalled, remember } from "../remembered";
import type { NewThing } from "./objects";

export type LineKind = "straight" | "through" | "control" | "arc";
export type ShapeForm = "circle" | "ring" | "ellipse" | "rectangle" | "polygon" | "star";
export type SnapTo = "nodes" | "edges" | "centres" | "grid";

export const PARTS = ["Draw", "Change", "Place", "Check"] as const;
export type Part = (typeof PARTS)[number];

type ShapeState = {
  part: Part;
  /** Nodes that are picked, of one contour of the item whose nodes are shown. */
  nodes: { id: string; contour: number; at: readonly number[] } | null;
  /** mm that an arrow moves what is picked. */
  nudge: number;
  snap: Readonly<Record<SnapTo, boolean>>;
  grid: number;
  lineKind: LineKind;
  /** A direction (radians) that the next straight stretch keeps. */
  along: number | null;
  /** The line that is drawn on. */
  drawing: string | null;
  /** Where a line begins that has no stretch yet, mm on the sheet. */
  begin: Point | null;
  /** Where the numbers that are being typed would set the next point. */
  ghost: Point | null;
  /** That line as the hand left it, while the server does not have it yet. */
  hand: Extract<NewThing, { kind: "line" }> | null;
  /** Words that were just set and wait to be typed over. */
  fresh: Extract<NewThing, { kind: "lettering" }> | null;
  form: ShapeForm;
  /** How far a shape that is put round something keeps off it, mm. */
  margin: number;
  brush: { radius: number; tolerance: number };
  tieWidth: number;
  gap: number;
  loop: { inner: number; wall: number; kind: "loop" | "hole" };
  /** Two places that were measured, mm on the sheet. */
  measured: readonly [Point, Point] | null;
  /** The gap through which the last pour ran out. */
  leak: { start: Point; end: Point; width: number; at: Point; held: boolean } | null;
  /** A drawing that was dropped and waits to be looked at. */
  brought: File | null;
  /** How many outlines the player shows; null when it rests. */
  playing: number | null;
  set: (change: Partial<Omit<ShapeState, "set">>) => void;
};

/** How the tools were left; they are taken up so again. */
const KEPT = [
  "nudge",
  "snap",
  "grid",
  "lineKind",
  "form",
  "margin",
  "brush",
  "tieWidth",
  "gap",
  "loop",
] as const;
type Kept = Partial<Pick<ShapeState, (typeof KEPT)[number]>>;

export const useShape = create<ShapeState>((set) => ({
  part: "Draw",
  nodes: null,
  nudge: 0.5,
  snap: { nodes: true, edges: false, centres: true, grid: false },
  grid: 1,
  lineKind: "straight",
  along: null,
  drawing: null,
  begin: null,
  ghost: null,
  hand: null,
  fresh: null,
  form: "circle",
  margin: 3,
  brush: { radius: 2, tolerance: 0.15 },
  tieWidth: 2,
  gap: 0,
  loop: { inner: 4, wall: 2.5, kind: "loop" },
  measured: null,
  leak: null,
  brought: null,
  playing: null,
  ...recalled<Kept>("tools", {}),
  set,
}));

useShape.subscribe((now, before) => {
  if (KEPT.some((name) => now[name] !== before[name]))
    remember("tools", Object.fromEntries(KEPT.map((name) => [name, now[name]])));
});
