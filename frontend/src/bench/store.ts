import { create } from "zustand";

import {
  api,
  data,
  pictureForm,
  Refused,
  type Bench,
  type Document,
  type Edit,
  type Flat,
  type Piece,
  type Wanted,
} from "../api/client";
import { hasBegun } from "./begun";
import { Queue, type Headers, type News, type Step } from "./queue";
import { tell } from "./windows";
import { leave, leftAt } from "./left";
import { recalled, remember } from "./remembered";
import { solidsFirst } from "./solid/due";
import { wholeFlat } from "../api/changes";
import { Latest } from "../api/latest";
import { useNotices } from "../ui/notices";
import type { Tool } from "./tools";

export const STOPS = ["Gather", "Trace", "Shape", "Raise", "Prove"] as const;
export type Stop = (typeof STOPS)[number];
export type Saved = "saved" | "saving" | "waiting" | "refused";

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
  /** What the hand is doing right now, or did last and is not stored yet, and the flat view it would give. */
  draft: Edit | null;
  preview: Flat | null;
  /** Whether the draft is still in the hand. */
  hand: boolean;
  /** Edits that were made and are not stored yet, in order. */
  waiting: readonly Edit[];
  /** Whether one of the latest changes was refused. */
  refused: boolean;
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
  /** Shows what was made of the piece elsewhere, unless changes of this window are on their way. */
  catchUp: () => Promise<void>;
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
  make: (ask: (piece: Piece, headers: Headers) => Promise<Bench>) => void;
  undo: () => void;
  redo: () => void;
  rename: (name: string) => Promise<void>;
};

/** A bench on which nothing was done yet. */
const EMPTY = {
  draft: null,
  preview: null,
  problem: null,
  hand: false,
  waiting: [],
  refused: false,
  saved: "saved",
  picked: [],
  hover: null,
} as const;

/** What the hand was at is put down when one goes elsewhere. */
const AT_REST = { tool: null, area: null, wipe: null, compared: null, spot: null, measured: null } as const;

export const useBench = create<BenchState>((set, get) => {
  /** The changes of every piece that was open, by its id: they go on when another page is looked at. */
  const queues = new Map<string, Queue>();
  const open = () => queues.get(get().piece?.id ?? "");

  let resting: ReturnType<typeof setTimeout> | undefined;
  const previews = new Latest<{ edit: Edit; coarse: boolean }, Flat>(
    async ({ edit, coarse }, signal) => {
      const { piece, flat: before } = get();
      const waiting = [...get().waiting];
      if (!piece) throw new Error("No piece is open.");
      const answer = await data(
        api.POST("/api/pieces/{piece_id}/preview", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision, waiting, edit, coarse, changes_only: true },
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

  const news: News = {
    made: (bench, before, edit, step) => {
      tell({ piece: bench.piece.id, revision: bench.piece.revision });
      if (edit) set({ made: { edit, revision: bench.piece.revision } });
      if (get().piece?.id !== bench.piece.id) return;
      show(bench, step.retraces?.() ?? true);
      if (step.makes) pickMade(before.piece.document, bench.piece.document);
    },
    overtaken: (bench, merged, error) => {
      if (get().piece?.id === bench.piece.id) show(bench);
      if (merged)
        useNotices.getState().say("This piece was changed in another window too. Both changes are kept.");
      else useNotices.getState().refuse(error.message);
    },
    refused: (error, step) => {
      const text = error instanceof Error ? error.message : "The change could not be made.";
      if (error instanceof Refused && step.edit)
        set({ problem: { text, field: error.field }, refused: true });
      else useNotices.getState().refuse(text);
    },
    changed: (queue) => {
      const rest = queue.length === 0;
      if (open() !== queue) {
        if (rest) queues.delete(queue.bench.piece.id);
        return;
      }
      const saved = queue.offline ? "waiting" : rest ? (get().refused ? "refused" : "saved") : "saving";
      set({ waiting: queue.waiting, saved });
      if (!rest || get().hand) return;
      set({ draft: null, preview: null, ...(get().refused ? {} : { problem: null }) });
    },
  };

  /** Has a change made; resolves when it is made or cannot be. */
  const enqueue = async (step: Step): Promise<void> => {
    set({ refused: false });
    await open()?.add(step);
  };

  /** Takes a picture for the piece, from wherever it comes, and goes to where it is traced. */
  const taking = (ask: Step["ask"]) =>
    enqueue({
      ask,
      then: ({ piece: { document } }, { piece: { document: old } }) => {
        const before = new Set(old.pictures.map((p) => p.id));
        const added = document.pictures.find((p) => !before.has(p.id));
        set({ stop: "Trace", problem: null, ...AT_REST, ...(added ? { picture: added.id } : {}) });
      },
    });

  const stepping = (way: "undo" | "redo") =>
    enqueue({
      lasts: false,
      ask: (piece, headers) =>
        data(
          api.POST(`/api/pieces/{piece_id}/${way}`, {
            params: { path: { piece_id: piece.id } },
            body: { revision: piece.revision, changes_only: true },
            headers,
          }),
        ),
    });

  return {
    piece: null,
    flat: null,
    draft: null,
    preview: null,
    problem: null,
    waiting: [],
    hand: false,
    refused: false,
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
      const { piece, hand } = get();
      const same = piece?.id === bench.piece.id;
      const queue = queues.get(bench.piece.id) ?? new Queue(bench, news);
      queues.set(bench.piece.id, queue);
      queue.learn(bench);
      if (same) {
        // What the hand is at goes on.
        set(queue.bench);
        if (!hand) news.changed(queue);
        return;
      }
      set({
        ...queue.bench,
        ...EMPTY,
        stop: stopLeft(bench.piece) ?? firstStop(bench.piece.document),
        picture: null,
        ...AT_REST,
      });
      news.changed(queue);
    },
    catchUp: async () => {
      const { piece } = get();
      const path = { params: { path: { piece_id: piece?.id ?? "" } } };
      if (!piece || open()?.length) return;
      const head = await data(api.GET("/api/pieces/{piece_id}/head", path));
      if (head.revision === get().piece?.revision || open()?.length) return;
      const bench = await data(api.GET("/api/pieces/{piece_id}", path));
      const now = get().piece;
      if (now?.id !== piece.id || open()?.length || bench.piece.revision === now.revision) return;
      open()?.learn(bench);
      show(bench);
      useNotices.getState().say("This piece was changed in another window. You see it as it is now.");
    },
    close: () => {
      previews.cancel();
      const queue = open();
      set({ piece: null, flat: null, ...EMPTY });
      if (queue) news.changed(queue);
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
      set({ draft: edit, hand: true });
      clearTimeout(resting);
      const of = edit.do === "set-trace" ? edit.picture : null;
      const [across, down] = get().flat?.underlays.find((u) => u.id === of)?.pixels ?? [0, 0];
      const coarse = edit.do === "set-trace" && across * down > COARSE_ABOVE;
      // What an undo leads to is not known here: the preview comes with the next move.
      if (open()?.plain === false) return;
      previews.ask({ edit, coarse });
      if (coarse) resting = setTimeout(() => previews.ask({ edit, coarse: false }), REST_MS);
    },
    commit: (wanted) => {
      const queue = open();
      if (!queue) return;
      clearTimeout(resting);
      previews.cancel();
      const edit = typeof wanted === "function" ? wanted : () => wanted;
      set({ hand: false });
      let retraces = false;
      void enqueue({
        edit,
        makes: true,
        retraces: () => retraces,
        ask: async (piece, headers, made) => {
          if (!made) throw new Error("There is no edit to make.");
          retraces = RETRACING.has(made.do);
          // What the hand waits for is the solid: it is asked for or moved as the draft is drawn, and goes first.
          await drawn();
          if (queue.length === 1) await solidsFirst(PATIENCE_MS);
          return data(
            api.POST("/api/pieces/{piece_id}/edits", {
              params: { path: { piece_id: piece.id } },
              body: { revision: piece.revision, edit: made, changes_only: true },
              headers,
            }),
          );
        },
      });
      set({ draft: queue.waiting.at(-1) ?? null });
    },
    make: (ask) => void enqueue({ ask, makes: true }),
    takeMotif: async (motif, { how, replaces }) => {
      const asked: Step["ask"] = (piece, headers) =>
        data(
          api.POST("/api/pieces/{piece_id}/cabinet", {
            params: { path: { piece_id: piece.id } },
            body: { motif, revision: piece.revision, how, replaces: replaces ?? null },
            headers,
          }),
        );
      if (how === "picture") return taking(asked);
      // Outlines need no tracing: they are to be placed and sized.
      if (get().stop !== "Shape") get().setStop("Shape");
      window.dispatchEvent(new Event("drelo-fit"));
      return enqueue({ ask: asked, makes: true });
    },
    putPicture: (picture, wanted = {}) =>
      taking((piece, headers) =>
        data(
          api.POST("/api/pieces/{piece_id}/picture", {
            params: { path: { piece_id: piece.id } },
            body: { picture: picture.name, revision: piece.revision },
            bodySerializer: () => pictureForm(picture, { ...wanted, revision: piece.revision }),
            headers,
          }),
        ),
      ),
    undo: () => void stepping("undo"),
    redo: () => void stepping("redo"),
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
