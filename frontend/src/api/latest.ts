/**
 * Runs one request at a time and remembers only the newest wish while it runs: results keep coming during a drag, none is
 * out of date, and no queue grows.
 */
export class Latest<In, Out> {
  private running = false;
  private next: { value: In } | null = null;
  private stopper: AbortController | null = null;
  private round = 0;

  constructor(
    private readonly run: (value: In, signal: AbortSignal) => Promise<Out>,
    private readonly done: (result: Out, value: In) => void,
    private readonly failed: (error: unknown, value: In) => void,
  ) {}

  ask(value: In): void {
    this.next = { value };
    if (!this.running) void this.work();
  }

  /** Forget what waits, and what runs. */
  cancel(): void {
    this.round += 1;
    this.next = null;
    this.stopper?.abort();
  }

  private async work(): Promise<void> {
    this.running = true;
    while (this.next) {
      const { value } = this.next;
      const round = this.round;
      this.next = null;
      this.stopper = new AbortController();
      try {
        const result = await this.run(value, this.stopper.signal);
        if (round === this.round) this.done(result, value);
      } catch (error) {
        if (round === this.round) this.failed(error, value);
      }
    }
    this.running = false;
  }
}
