import { create } from "zustand";

import {
  api,
  data,
  Offline,
  pictureForm,
  Refused,
  type Bench,
  type Document,
  type Edit,
  type Flat,
  type Piece,
  type Schemas,
  type Wanted,
} from "../api/client";
import { hasBegun } from "./begun";
import { leave, leftAt } from "./left";
import { recalled, remember } from "./remembered";
import { solidsFirst } from "./solid/due";
import { wholeBench, wholeFlat } from "../api/changes";
import { Latest } from "../api/latest";
import { useNotices } from "../ui/notices";
import type { Tool } from "./tools";

export const STOPS = ["Gather", "Trace", "Shape", "Raise", "Prove"] as const;
export type Stop = (typeof STOPS)[number];
export type Saved = "saved" | "saving" | "waiting";

const RETRY_MS = 1500;
/** How long (ms) an edit lets the solid that shows it go first. */
const PATIENCE_MS = 150;
/** Pictures with more pixels are previewed coarsely while the hand moves, and exactly when it rests this long (ms). */
const COARSE_ABOVE = 200_000;
const REST_MS = 260;

/** Resolves when what was just set is on the screen; a page that nobody sees draws nothing. */
const drawn = () =>
  new Promise<void>((resolve) => {
    setTimeout(resolve, PATIENCE_MS);
    requestAnimationFrame(() => setTimeout(resolve));
  });

type BenchState = {
  piece: Piece | null;
  flat: Flat | null;
  /** What the hand is doing right now: an edit that is not made yet, and the flat view it would give. */
  draft: Edit | null;
  preview: Flat | null;
  /** Why the draft or the last edit cannot be. */
  problem: { text: string; field: string } | null;
  /** The edit that was made last, and the revision that it led to: what was previewed of it still holds. */
  made: { edit: Edit; revision: number } | null;
  saved: Saved;
  stop: Stop;
  hover: string | null;
  picked: readonly string[];
  pointer: { x: number; y: number } | null;
  /** What a drag under way will do. */
  hint: string | null;
  underlay: number;
  /** Whether a faint underlay is shown with more contrast; it changes nothing but the look. */
  darker: boolean;
  /** What the pointer does on the flat view. */
  tool: Tool | null;
  /** The picture that the hand is at, and the area of it whose trace is tuned. */
  picture: string | null;
  area: string | null;
  /** Where the wipe stands, as a share of the flat view's width; what lies to its left is the picture, or an attempt. */
  wipe: number | null;
  compared: string | null;
  /** The rough spot that is looked at. */
  spot: number | null;
  /** Two points of the picture, mm on the sheet, whose distance waits to be typed. */
  measured: readonly [readonly [number, number], readonly [number, number]] | null;
  open: (bench: Bench) => void;
  close: () => void;
  setStop: (stop: Stop) => void;
  setHover: (id: string | null) => void;
  pick: (id: string | null, more: boolean) => void;
  pickAll: (ids: readonly string[]) => void;
  setHint: (hint: string | null) => void;
  setPointer: (at: BenchState["pointer"]) => void;
  setUnderlay: (strength: number) => void;
  setDarker: (darker: boolean) => void;
  setTool: (tool: Tool | null) => void;
  setPicture: (picture: string | null) => void;
  setArea: (area: string | null) => void;
  setWipe: (wipe: number | null, compared?: string | null) => void;
  setSpot: (spot: number | null) => void;
  setMeasured: (measured: BenchState["measured"]) => void;
  previewEdit: (edit: Edit) => void;
  /** Makes an edit; one that follows from the document is worked out again when those before it are made. */
  commit: (edit: Edit | ((document: Document) => Edit)) => void;
  putPicture: (picture: File, wanted?: Wanted) => Promise<void>;
  takeMotif: (motif: string, how: { how: "picture" | "outlines"; replaces?: string }) => Promise<void>;
  /** Makes a change that is asked of an address of its own. */
  make: (ask: (piece: Piece) => Promise<Bench>) => void;
  undo: () => void;
  redo: () => void;
  rename: (name: string) => Promise<void>;
};

/** What the hand was at is put down when one goes elsewhere. */
const AT_REST = { tool: null, area: null, wipe: null, compared: null, spot: null, measured: null } as const;

type BenchAnswer = Schemas["BenchAnswer"];
/** makes: what it brings is picked. retraces: it may name traced regions anew. */
type Step = {
  ask: (piece: Piece) => Promise<BenchAnswer>;
  makes: boolean;
  retraces: () => boolean;
};

export const useBench = create<BenchState>((set, get) => {
  /** Steps that wait for the server, in order; one at a time, each on the revision that the one before gave. */
  let steps: Step[] = [];
  let working = false;

  let resting: ReturnType<typeof setTimeout> | undefined;
  const previews = new Latest<{ edit: Edit; coarse: boolean }, Flat>(
    async ({ edit, coarse }, signal) => {
      const piece = get().piece;
      if (!piece) throw new Error("No piece is open.");
      const before = get().flat;
      const answer = await data(
        api.POST("/api/pieces/{piece_id}/preview", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision, edit, coarse, changes_only: true },
          signal,
        }),
      );
      return wholeFlat(answer, before);
    },
    (flat) => {
      if (!get().draft) return;
      performance.mark("drelo-flat");
      set({ preview: flat, problem: null });
    },
    (error) => {
      if (error instanceof Refused && !error.superseded && get().draft)
        set({ problem: { text: error.message, field: error.field } });
    },
  );

  /** retraced: regions of pictures may have new names where they lay. */
  const show = (bench: Bench, retraced = false) => {
    const before = get().flat;
    performance.mark("drelo-flat");
    const picked = stillPicked(get().picked, before, bench.flat, retraced);
    set({ piece: bench.piece, flat: bench.flat, picked, hover: null });
  };
  /** Picks what an edit has made; a line that is being drawn is picked when it is left. */
  const pickMade = (before: Document, after: Document) => {
    if (get().tool === "line") return;
    const known = new Set(before.drawn.map((t) => t.id));
    const made = after.drawn.filter((t) => !known.has(t.id)).map((t) => t.id);
    if (made.length) set({ picked: made });
  };

  const work = async () => {
    if (working) return;
    working = true;
    while (steps.length) {
      const piece = get().piece;
      const step = steps[0];
      if (!piece || !step) break;
      set({ saved: "saving" });
      try {
        const flat = get().flat;
        const answer = await step.ask(piece);
        const bench = flat ? wholeBench(answer, { piece, flat }) : (answer as Bench);
        steps.shift();
        if (get().piece?.id !== bench.piece.id) continue;
        show(bench, step.retraces());
        if (step.makes) pickMade(piece.document, bench.piece.document);
        if (!steps.length) set({ draft: null, preview: null, problem: null });
      } catch (error) {
        if (error instanceof Offline) {
          set({ saved: "waiting" });
          await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
          continue;
        }
        steps = [];
        set({ draft: null, preview: null });
        if (error instanceof Refused && error.bench) {
          show(error.bench);
          useNotices.getState().refuse(error.message);
        } else if (error instanceof Refused) {
          set({ problem: { text: error.message, field: error.field } });
        } else {
          useNotices
            .getState()
            .refuse(error instanceof Error ? error.message : "The change could not be made.");
        }
      }
    }
    working = false;
    set({ saved: "saved" });
  };

  const enqueue = (ask: Step["ask"], makes: boolean, retraces = () => true) => {
    steps.push({ ask, makes, retraces });
    void work();
  };

  /** Takes a picture for the piece, from wherever it comes. */
  const taking = async (take: () => Promise<Bench>) => {
    set({ saved: "saving" });
    try {
      const before = new Set(get().piece?.document.pictures.map((p) => p.id));
      const bench = await take();
      show(bench);
      const added = bench.piece.document.pictures.find((p) => !before.has(p.id));
      set({ stop: "Trace", problem: null, ...AT_REST, ...(added ? { picture: added.id } : {}) });
    } catch (error) {
      if (error instanceof Refused && error.bench) show(error.bench);
      useNotices
        .getState()
        .refuse(error instanceof Error ? error.message : "The picture could not be taken.");
    } finally {
      set({ saved: "saved" });
    }
  };

  return {
    piece: null,
    flat: null,
    draft: null,
    preview: null,
    problem: null,
    made: null,
    saved: "saved",
    stop: "Raise",
    hover: null,
    picked: [],
    pointer: null,
    hint: null,
    underlay: recalled("underlay", 0.35),
    darker: recalled("darker", false),
    tool: null,
    picture: null,
    area: null,
    wipe: null,
    compared: null,
    spot: null,
    measured: null,

    open: (bench) => {
      const same = get().piece?.id === bench.piece.id;
      set({
        piece: bench.piece,
        flat: bench.flat,
        draft: null,
        preview: null,
        problem: null,
        ...(same
          ? {}
          : {
              picked: [],
              hover: null,
              stop: stopLeft(bench.piece) ?? firstStop(bench.piece.document),
              picture: null,
              ...AT_REST,
            }),
      });
    },
    close: () => {
      previews.cancel();
      set({ piece: null, flat: null, draft: null, preview: null, problem: null, picked: [], hover: null });
    },
    setStop: (stop) => {
      leave(get().piece?.id ?? "", { stop });
      set({ stop, ...AT_REST, area: get().area });
    },
    setHover: (hover) => get().hover !== hover && set({ hover }),
    pick: (id, more) =>
      set(({ picked }) => {
        if (id === null) return { picked: more ? picked : [] };
        if (!more) return { picked: [id] };
        return { picked: picked.includes(id) ? picked.filter((p) => p !== id) : [...picked, id] };
      }),
    pickAll: (picked) => set({ picked }),
    setHint: (hint) => get().hint !== hint && set({ hint }),
    setPointer: (pointer) => set({ pointer }),
    setUnderlay: (underlay) => {
      set({ underlay });
      remember("underlay", underlay);
    },
    setDarker: (darker) => {
      set({ darker });
      remember("darker", darker);
    },
    setTool: (tool) => set({ tool }),
    setPicture: (picture) => set({ picture, area: null }),
    setArea: (area) => set({ area }),
    setWipe: (wipe, compared) => set(compared === undefined ? { wipe } : { wipe, compared }),
    setSpot: (spot) => set({ spot }),
    setMeasured: (measured) => set({ measured }),

    previewEdit: (edit) => {
      set({ draft: edit });
      clearTimeout(resting);
      const of = edit.do === "set-trace" ? edit.picture : null;
      const [across, down] = get().flat?.underlays.find((u) => u.id === of)?.pixels ?? [0, 0];
      const coarse = edit.do === "set-trace" && across * down > COARSE_ABOVE;
      previews.ask({ edit, coarse });
      if (coarse) resting = setTimeout(() => previews.ask({ edit, coarse: false }), REST_MS);
    },
    commit: (wanted) => {
      const now = get().piece;
      if (!now) return;
      const of = (piece: Piece) => (typeof wanted === "function" ? wanted(piece.document) : wanted);
      clearTimeout(resting);
      previews.cancel();
      set({ draft: of(now) });
      let retraces = false;
      const ask = async (piece: Piece) => {
        const edit = of(piece);
        retraces = RETRACING.has(edit.do);
        // What the hand waits for is the solid: it is asked for or moved as the draft is drawn, and goes first.
        await drawn();
        if (steps.length === 1) await solidsFirst(PATIENCE_MS);
        const answer = await data(
          api.POST("/api/pieces/{piece_id}/edits", {
            params: { path: { piece_id: piece.id } },
            body: { revision: piece.revision, edit, changes_only: true },
          }),
        );
        set({ made: { edit, revision: answer.piece.revision } });
        return answer;
      };
      enqueue(ask, true, () => retraces);
    },
    make: (ask) => enqueue(ask, true),
    takeMotif: async (motif, { how, replaces }) => {
      const asked = (piece: Piece) =>
        data(
          api.POST("/api/pieces/{piece_id}/cabinet", {
            params: { path: { piece_id: piece.id } },
            body: { motif, revision: piece.revision, how, replaces: replaces ?? null },
          }),
        );
      const piece = get().piece;
      if (!piece) return;
      if (how === "picture") return taking(() => asked(piece));
      // Outlines need no tracing: they are to be placed and sized.
      if (get().stop !== "Shape") get().setStop("Shape");
      window.dispatchEvent(new Event("drelo-fit"));
      enqueue(asked, true);
    },
    putPicture: async (picture, wanted = {}) => {
      const piece = get().piece;
      if (!piece) return;
      await taking(() =>
        data(
          api.POST("/api/pieces/{piece_id}/picture", {
            params: { path: { piece_id: piece.id } },
            body: { picture: picture.name, revision: piece.revision },
            bodySerializer: () => pictureForm(picture, { ...wanted, revision: piece.revision }),
          }),
        ),
      );
    },
    undo: () =>
      enqueue(
        (piece) =>
          data(
            api.POST("/api/pieces/{piece_id}/undo", {
              params: { path: { piece_id: piece.id } },
              body: { revision: piece.revision, changes_only: true },
            }),
          ),
        false,
      ),
    redo: () =>
      enqueue(
        (piece) =>
          data(
            api.POST("/api/pieces/{piece_id}/redo", {
              params: { path: { piece_id: piece.id } },
              body: { revision: piece.revision, changes_only: true },
            }),
          ),
        false,
      ),
    rename: async (name) => {
      const piece = get().piece;
      if (!piece) return;
      try {
        const renamed = await data(
          api.PATCH("/api/pieces/{piece_id}", { params: { path: { piece_id: piece.id } }, body: { name } }),
        );
        set((s) => (s.piece ? { piece: { ...s.piece, name: renamed.name } } : {}));
      } catch (error) {
        useNotices
          .getState()
          .refuse(error instanceof Error ? error.message : "The name could not be changed.");
      }
    },
  };
});

/** Edits after which a region that lies where it lay may have another name. */
const RETRACING: ReadonlySet<Edit["do"]> = new Set([
  "set-trace",
  "set-tracing",
  "set-care",
  "switch-care",
  "add-area",
  "set-area",
  "drop-area",
  "choose-attempt",
  "put-picture",
  "place-picture",
  "set-scale",
]);

/** What of the picked is still there; a region that was traced anew is the one that lies where it lay. */
function stillPicked(
  picked: readonly string[],
  before: Flat | null,
  after: Flat,
  retraced: boolean,
): readonly string[] {
  const ids = new Set([...after.regions.filter((r) => !r.left_out), ...after.things].map((r) => r.id));
  return picked.flatMap((id) => {
    if (ids.has(id)) return [id];
    if (!retraced) return [];
    const old = before?.regions.find((r) => r.id === id);
    const [x, y] = old?.mark.anchor ?? [NaN, NaN];
    const near = after.regions.filter(
      ({ mark: { box } }) => x >= box[0] && x <= box[2] && y >= box[1] && y <= box[3],
    );
    const smallest = near.sort((a, b) => a.area - b.area)[0];
    return smallest ? [smallest.id] : [];
  });
}

/** The stop at which a piece was left in this browser. */
const stopLeft = (piece: Piece): Stop | undefined => STOPS.find((stop) => stop === leftAt(piece.id).stop);

/** Where a piece opens that nobody left: at what there is to do next. */
function firstStop(document: Document): Stop {
  if (document.pictures.length) return "Trace";
  if (document.drawn.length) return "Shape";
  return hasBegun(document) ? "Raise" : "Gather";
}
