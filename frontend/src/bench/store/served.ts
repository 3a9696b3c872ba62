import { api, data, pictureForm, type Piece } from "../../api/client";
import { useNotices } from "../../ui/notices";
import type { Step } from "../queue";
import { fitNext } from "../signals";
import { solidsFirst } from "../solid/due";
import { EMPTY_HAND } from "./hand";
import { RETRACING, type Queues } from "./queues";
import type { Served, Slice } from "./state";
import { openingStop } from "./stops";
import { DOWN } from "./tools";
import { NOT_LOOKING } from "./views";

/** How long (ms) an edit lets the solid that shows it go first. */
const PATIENCE_MS = 150;

/** A bench on which nothing was done yet. */
const EMPTY = {
  ...EMPTY_HAND,
  waiting: [],
  refused: false,
  saved: "saved",
  collisions: [],
  picked: [],
  hover: null,
} as const;

const at = (piece: Piece) => ({ path: { piece_id: piece.id } });

export const served =
  (queues: Queues): Slice<Served> =>
  (set, get) => {
    /** Takes a picture for the piece, from wherever it comes, and goes to where it is traced. */
    const taking = (ask: Step["ask"]) =>
      queues.add({
        ask,
        then: ({ piece: { document } }, { piece: { document: old } }) => {
          const before = new Set(old.pictures.map((p) => p.id));
          const added = document.pictures.find((p) => !before.has(p.id));
          const picture = added ? { picture: added.id } : {};
          set({ stop: "Trace", problem: null, ...DOWN, ...NOT_LOOKING, ...picture });
        },
      });
    const stepping = (way: "undo" | "redo") =>
      queues.add({
        lasts: false,
        ask: (piece, headers) =>
          data(
            api.POST(`/api/pieces/{piece_id}/${way}`, {
              params: at(piece),
              body: { revision: piece.revision, changes_only: true },
              headers,
            }),
          ),
      });
    return {
      piece: null,
      flat: null,
      waiting: [],
      refused: false,
      made: null,
      collisions: [],
      saved: "saved",

      open: (bench) => {
        const { piece, hand } = get();
        const queue = queues.of(bench);
        if (piece?.id === bench.piece.id) {
          // What the hand is at goes on.
          set({ piece: queue.bench.piece, flat: queue.bench.flat });
          if (!hand) queues.changed(queue);
          return;
        }
        set({
          piece: queue.bench.piece,
          flat: queue.bench.flat,
          ...EMPTY,
          ...DOWN,
          ...NOT_LOOKING,
          stop: openingStop(bench.piece),
          picture: null,
        });
        queues.changed(queue);
      },
      catchUp: async (by = null) => {
        const { piece } = get();
        if (!piece || queues.open()?.length) return;
        const head = await data(api.GET("/api/pieces/{piece_id}/head", { params: at(piece) }));
        if (head.revision === get().piece?.revision || queues.open()?.length) return;
        const bench = await data(api.GET("/api/pieces/{piece_id}", { params: at(piece) }));
        const now = get().piece;
        if (now?.id !== piece.id || queues.open()?.length || bench.piece.revision === now.revision) return;
        queues.open()?.learn(bench);
        queues.show(bench);
        const where = by ? `${by} has changed this piece.` : "This piece was changed in another window.";
        useNotices.getState().say(`${where} You see it as it is now.`);
      },
      close: () => {
        get().letGo();
        const queue = queues.open();
        set({ piece: null, flat: null, ...EMPTY });
        if (queue) queues.changed(queue);
      },
      commit: (wanted) => {
        const queue = queues.open();
        if (!queue) return;
        get().letGo();
        const edit = typeof wanted === "function" ? wanted : () => wanted;
        let retraces = false;
        void queues.add({
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
                params: at(piece),
                body: { revision: piece.revision, edit: made, changes_only: true },
                headers,
              }),
            );
          },
        });
        set({ draft: queue.waiting.at(-1) ?? null });
      },
      make: (ask) => void queues.add({ ask, makes: true }),
      takeMotif: async (motif, { how, replaces }) => {
        const ask: Step["ask"] = (piece, headers) =>
          data(
            api.POST("/api/pieces/{piece_id}/cabinet", {
              params: at(piece),
              body: { motif, revision: piece.revision, how, replaces: replaces ?? null },
              headers,
            }),
          );
        if (how === "picture") return taking(ask);
        // Outlines need no tracing: they are to be placed and sized.
        if (get().stop !== "Shape") get().setStop("Shape");
        fitNext.send();
        return queues.add({ ask, makes: true });
      },
      putPicture: (picture, wanted = {}) =>
        taking((piece, headers) =>
          data(
            api.POST("/api/pieces/{piece_id}/picture", {
              params: at(piece),
              body: { picture: picture.name, revision: piece.revision },
              bodySerializer: () => pictureForm(picture, { ...wanted, revision: piece.revision }),
              headers,
            }),
          ),
        ),
      settle: (mine) => {
        const [first, ...rest] = get().collisions;
        set({ collisions: rest });
        if (mine && first) get().commit(first.edit);
      },
      undo: () => void stepping("undo"),
      redo: () => void stepping("redo"),
      rename: async (name) => {
        const { piece } = get();
        if (!piece) return;
        try {
          const renamed = await data(
            api.PATCH("/api/pieces/{piece_id}", { params: at(piece), body: { name } }),
          );
          set((s) => (s.piece ? { piece: { ...s.piece, name: renamed.name } } : {}));
        } catch (error) {
          const text = error instanceof Error ? error.message : "The name could not be changed.";
          useNotices.getState().refuse(text);
        }
      },
    };
  };

/** Resolves when what was just set is on the screen; a page that nobody sees draws nothing. */
const drawn = () =>
  new Promise<void>((resolve) => {
    setTimeout(resolve, PATIENCE_MS);
    requestAnimationFrame(() => setTimeout(resolve));
  });
