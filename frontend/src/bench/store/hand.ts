import { api, data, Refused, type Edit, type Flat } from "../../api/client";
import { wholeFlat } from "../../api/changes";
import { Latest } from "../../api/latest";
import type { Queues } from "./queues";
import type { Hand, Slice } from "./state";

/** Pictures with more pixels are previewed coarsely while the hand moves, and exactly when it rests this long (ms). */
const COARSE_ABOVE = 200_000;
const REST_MS = 260;

export const EMPTY_HAND = { draft: null, preview: null, problem: null, hand: false } as const;

export const hand =
  (queues: Queues): Slice<Hand> =>
  (set, get) => {
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
    return {
      ...EMPTY_HAND,
      previewEdit: (edit) => {
        set({ draft: edit, hand: true });
        clearTimeout(resting);
        const of = edit.do === "set-trace" ? edit.picture : null;
        const [across, down] = get().flat?.underlays.find((u) => u.id === of)?.pixels ?? [0, 0];
        const coarse = edit.do === "set-trace" && across * down > COARSE_ABOVE;
        // What an undo leads to is not known here: the preview comes with the next move.
        if (queues.open()?.plain === false) return;
        previews.ask({ edit, coarse });
        if (coarse) resting = setTimeout(() => previews.ask({ edit, coarse: false }), REST_MS);
      },
      letGo: () => {
        clearTimeout(resting);
        previews.cancel();
        set({ hand: false });
      },
      giveUp: () => {
        get().letGo();
        set({ draft: get().waiting.at(-1) ?? null, preview: null, problem: null });
      },
    };
  };
