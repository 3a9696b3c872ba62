import { Refused, type Bench, type Document, type Edit } from "../../api/client";
import { useNotices } from "../../ui/notices";
import { Queue, type News, type Step } from "../queue";
import { inWords } from "../../versions/words";
import { tell } from "../windows";
import type { Get, Set } from "./state";
import { stillPicked } from "./stillPicked";

const BOTH_KEPT = "This piece was changed elsewhere too. Both changes are kept.";
const ONLY_LOOK =
  "This piece is shown to you to look at. Duplicate it on the page of all pieces to go on with it.";

/** The changes of every piece that was open: they go on when another page is looked at. */
export class Queues {
  private readonly byPiece = new Map<string, Queue>();

  constructor(
    private readonly set: Set,
    private readonly get: Get,
  ) {}

  /** The changes of the piece on the bench. */
  open(): Queue | undefined {
    return this.byPiece.get(this.get().piece?.id ?? "");
  }

  /** The changes of a piece that is put on the bench. */
  of(bench: Bench): Queue {
    const queue = this.byPiece.get(bench.piece.id) ?? new Queue(bench, this.news);
    this.byPiece.set(bench.piece.id, queue);
    queue.learn(bench);
    return queue;
  }

  /** Has a change made; resolves when it is made or cannot be. */
  async add(step: Step): Promise<void> {
    if (this.get().piece?.right === "look") {
      this.set({ draft: null, preview: null });
      useNotices.getState().refuse(ONLY_LOOK);
      return;
    }
    this.set({ refused: false });
    await this.open()?.add(step);
  }

  /** Puts on the bench what the server said. retraced: regions of pictures may have new names where they lay. */
  show(bench: Bench, retraced = false): void {
    const { flat, picked } = this.get();
    performance.mark("drelo-flat");
    this.set({
      piece: bench.piece,
      flat: bench.flat,
      picked: stillPicked(picked, flat, bench.flat, retraced),
      hover: null,
    });
  }

  /** Shows how far the changes of a piece have come. */
  changed(queue: Queue): void {
    const { refused, hand } = this.get();
    const rest = queue.length === 0;
    if (this.open() !== queue) {
      if (rest) this.byPiece.delete(queue.bench.piece.id);
      return;
    }
    const saved = queue.offline ? "waiting" : rest ? (refused ? "refused" : "saved") : "saving";
    this.set({ waiting: queue.waiting, saved });
    if (rest && !hand) this.set({ draft: null, preview: null, ...(refused ? {} : { problem: null }) });
  }

  private readonly news: News = {
    made: (bench, before, edit, step) => {
      tell({ piece: bench.piece.id, revision: bench.piece.revision });
      if (edit) this.set({ made: { edit, revision: bench.piece.revision } });
      if (this.get().piece?.id !== bench.piece.id) return;
      this.show(bench, step.retraces?.() ?? true);
      if (step.makes) this.pickMade(before.piece.document, bench.piece.document);
    },
    together: () => useNotices.getState().say(BOTH_KEPT),
    overtaken: (bench, merged, error, step) => {
      if (this.get().piece?.id === bench.piece.id) this.show(bench);
      if (error.collision.length) this.ask(bench, error, step);
      else if (merged) useNotices.getState().say(BOTH_KEPT);
      else useNotices.getState().refuse(error.message);
    },
    refused: (error, step) => {
      const text = error instanceof Error ? error.message : "The change could not be made.";
      if (error instanceof Refused && step.edit)
        this.set({ problem: { text, field: error.field }, refused: true });
      else useNotices.getState().refuse(text);
    },
    changed: (queue) => this.changed(queue),
  };

  /** Both changed the same: theirs stands, and whether mine is to take its place is asked. */
  private ask(bench: Bench, { collision, mine, by }: Refused, { edit }: Step): void {
    if (edit && this.get().piece?.id === bench.piece.id) {
      this.set({ collisions: [...this.get().collisions, { by, theirs: collision, mine, edit }] });
      return;
    }
    const { units } = bench.piece.document;
    const theirs = collision.map((told) => inWords(told, units)).join(", ");
    useNotices.getState().say(`The same was changed elsewhere meanwhile: ${theirs}. It stands so.`);
  }

  /** Picks what an edit has made; a line that is being drawn is picked when it is left. */
  private pickMade(before: Document, after: Document): void {
    if (this.get().tool === "line") return;
    const known = new Set(before.drawn.map((t) => t.id));
    const made = after.drawn.filter((t) => !known.has(t.id)).map((t) => t.id);
    if (made.length) this.set({ picked: made });
  }
}

/** Edits after which a region that lies where it lay may have another name. */
export const RETRACING: ReadonlySet<Edit["do"]> = new Set([
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
