import type { StateCreator } from "zustand";

import type { Bench, Document, Edit, Flat, Piece, Schemas, Wanted } from "../../api/client";
import type { Headers } from "../queue";
import type { Tool } from "../tools";
import type { Stop } from "./stops";

type Told = Schemas["Told"];

export type Saved = "saved" | "saving" | "waiting" | "refused";

/** A change that could not be made since somebody else, where it is known who, had changed the same. */
export type Collision = {
  by: string | null;
  theirs: readonly Told[];
  mine: readonly Told[];
  edit: (document: Document) => Edit;
};

/** What the server said of the piece, and the changes that it is asked for. */
export type Served = {
  piece: Piece | null;
  flat: Flat | null;
  /** Edits that were made and are not stored yet, in order. */
  waiting: readonly Edit[];
  /** Whether one of the latest changes was refused. */
  refused: boolean;
  /** The edit that was made last, and the revision that it led to: what was previewed of it still holds. */
  made: { edit: Edit; revision: number } | null;
  saved: Saved;
  /** Changes of this window that met changes of others of the same, in order: whose is to stand is asked. */
  collisions: readonly Collision[];
  /** Answers the first of them: with mine, or by leaving what stands. */
  settle: (mine: boolean) => void;
  open: (bench: Bench) => void;
  /** Shows what was made of the piece elsewhere, by whom where that is known, unless changes of this window are on their way. */
  catchUp: (by?: string | null) => Promise<void>;
  close: () => void;
  /** Makes an edit; one that follows from the document is worked out again when those before it are made. */
  commit: (edit: Edit | ((document: Document) => Edit)) => void;
  putPicture: (picture: File, wanted?: Wanted) => Promise<void>;
  takeMotif: (motif: string, how: { how: "picture" | "outlines"; replaces?: string }) => Promise<void>;
  /** Makes a change that is asked of an address of its own. */
  make: (ask: (piece: Piece, headers: Headers) => Promise<Bench>) => void;
  undo: () => void;
  redo: () => void;
  rename: (name: string) => Promise<void>;
};

/** What the hand does that is not stored yet. */
export type Hand = {
  /** What the hand is doing right now, or did last and is not stored yet, and the flat view it would give. */
  draft: Edit | null;
  preview: Flat | null;
  /** Whether the draft is still in the hand. */
  hand: boolean;
  /** Why the draft or the last edit cannot be. */
  problem: { text: string; field: string } | null;
  previewEdit: (edit: Edit) => void;
  /** Ends the previews: the draft is made, or given up. */
  letGo: () => void;
  /** Ends what the hand was doing without making it. */
  giveUp: () => void;
};

/** What the pointer does, and what it does it to. */
export type Tools = {
  /** What the pointer does on the flat view. */
  tool: Tool | null;
  /** The picture that the hand is at, and the area of it whose trace is tuned. */
  picture: string | null;
  area: string | null;
  /** Two points of the picture, mm on the sheet, whose distance waits to be typed. */
  measured: readonly [readonly [number, number], readonly [number, number]] | null;
  setTool: (tool: Tool | null) => void;
  setPicture: (picture: string | null) => void;
  setArea: (area: string | null) => void;
  setMeasured: (measured: Tools["measured"]) => void;
};

/** What is looked at, pointed at and picked. */
export type Views = {
  stop: Stop;
  hover: string | null;
  picked: readonly string[];
  /** Where the pointer is, mm on the sheet. */
  pointer: { x: number; y: number } | null;
  /** What a drag under way will do. */
  hint: string | null;
  underlay: number;
  /** Whether a faint underlay is shown with more contrast; it changes nothing but the look. */
  darker: boolean;
  /** Where the wipe stands, as a share of the flat view's width; what lies to its left is the picture, or an attempt. */
  wipe: number | null;
  compared: string | null;
  /** The rough spot that is looked at. */
  spot: number | null;
  setStop: (stop: Stop) => void;
  setHover: (id: string | null) => void;
  pick: (id: string | null, more: boolean) => void;
  pickAll: (ids: readonly string[]) => void;
  setHint: (hint: string | null) => void;
  setPointer: (at: Views["pointer"]) => void;
  setUnderlay: (strength: number) => void;
  setDarker: (darker: boolean) => void;
  setWipe: (wipe: number | null, compared?: string | null) => void;
  setSpot: (spot: number | null) => void;
};

/** The bench: what the server said, what the hand does, its tools, what is looked at. */
export type BenchState = Served & Hand & Tools & Views;

/** One part of the bench; it sees the others. */
export type Slice<Part> = StateCreator<BenchState, [], [], Part>;

export type Get = () => BenchState;
export type Set = (change: Partial<BenchState>) => void;
