import {
  Offline,
  Refused,
  type Bench,
  type Document,
  type Edit,
  type Piece,
  type Schemas,
} from "../api/client";
import { wholeBench } from "../api/changes";
import { random } from "../api/random";

const RETRY_MS = 1500;
/** So often one step is put onto what somebody else has made in the meantime. */
const MOST_TIMES = 5;
/** The server cannot be asked now; nothing was decided. */
const NOT_NOW: ReadonlySet<number> = new Set([502, 503, 504]);

type BenchAnswer = Schemas["BenchAnswer"];
export type Headers = { "Idempotency-Key": string };

/** A change on its way to the server. */
export type Step = {
  /** Asks for the change on a revision; sent again with the same headers, it is made once. */
  ask: (piece: Piece, headers: Headers, edit: Edit | null) => Promise<BenchAnswer>;
  /** The edit, where it is one that the screen can show before the answer is there. */
  edit?: (document: Document) => Edit;
  /** What it brings is picked. */
  makes?: boolean;
  /** Whether regions of pictures may have other names afterwards. */
  retraces?: () => boolean;
  /** Whether it still means the same after somebody else's change. */
  lasts?: boolean;
  /** What happens when it is made. */
  then?: (bench: Bench, before: Bench) => void;
};

export type News = {
  made: (bench: Bench, before: Bench, edit: Edit | null, step: Step) => void;
  /** Somebody else was quicker, and the server has brought both changes together. */
  together: (bench: Bench) => void;
  /** Another window was quicker; merged: the step is tried again on what current. */
  overtaken: (bench: Bench, merged: boolean, error: Refused, step: Step) => void;
  refused: (error: unknown, step: Step) => void;
  changed: (queue: Queue) => void;
};

type Held = Step & { headers: Headers; shown: Edit | null; times: number };

/**
 * The changes of one piece, sent one after another, each on the revision that the one before gave. They wait while the
 * server cannot be reached; one that is refused is dropped, those behind it go on.
 */
export class Queue {
  private steps: Held[] = [];
  private working = false;
  /** Whether the server does not answer just now. */
  offline = false;

  constructor(
    public bench: Bench,
    private readonly news: News,
  ) {}

  get length(): number {
    return this.steps.length;
  }

  /** Edits that are made here and not stored yet, in order. */
  get waiting(): Edit[] {
    return this.steps.flatMap((step) => step.shown ?? []);
  }

  /** Whether all that waits is edits that can be shown beforehand. */
  get plain(): boolean {
    return this.steps.every((step) => step.shown);
  }

  /** What stands on the server, learned otherwise; while changes are on their way, what they led to may be newer. */
  learn(bench: Bench): void {
    if (!this.length || bench.piece.revision > this.bench.piece.revision) this.bench = bench;
  }

  /** Resolves when the step is made or dropped. */
  add(step: Step): Promise<boolean> {
    return new Promise((done) => {
      const settled = (made: boolean) => done(made);
      const held: Held = {
        ...step,
        headers: { "Idempotency-Key": random() },
        shown: step.edit?.(this.bench.piece.document) ?? null,
        times: 0,
      };
      this.steps.push(held);
      this.settle.set(held, settled);
      this.news.changed(this);
      void this.work();
    });
  }

  private readonly settle = new Map<Held, (made: boolean) => void>();

  private async work(): Promise<void> {
    if (this.working) return;
    this.working = true;
    for (let step = this.steps[0]; step; step = this.steps[0]) {
      try {
        await this.send(step);
      } catch (error) {
        if (notNow(error)) {
          this.offline = true;
          this.news.changed(this);
          await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
          continue;
        }
        this.failed(step, error);
      }
      this.offline = false;
    }
    this.working = false;
    this.offline = false;
    this.news.changed(this);
  }

  private async send(step: Held): Promise<void> {
    const before = this.bench;
    step.shown = step.edit?.(before.piece.document) ?? null;
    const answer = await step.ask(before.piece, step.headers, step.shown);
    this.bench = wholeBench(answer, before);
    this.drop(step, true);
    this.news.made(this.bench, before, step.shown, step);
    if ("together" in answer && answer.together) this.news.together(this.bench);
    step.then?.(this.bench, before);
    this.news.changed(this);
  }

  private failed(step: Held, error: unknown): void {
    if (error instanceof Refused && error.bench) {
      this.bench = error.bench;
      const again = step.lasts !== false && !error.collision.length && ++step.times < MOST_TIMES;
      if (!again) this.drop(step, false);
      this.news.overtaken(this.bench, again, error, step);
    } else {
      this.drop(step, false);
      this.news.refused(error, step);
    }
    this.news.changed(this);
  }

  private drop(step: Held, made: boolean): void {
    this.steps.splice(this.steps.indexOf(step), 1);
    this.settle.get(step)?.(made);
    this.settle.delete(step);
  }
}

function notNow(error: unknown): boolean {
  return error instanceof Offline || (error instanceof Refused && NOT_NOW.has(error.status));
}
