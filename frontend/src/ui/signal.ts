/** What one part of the page asks and others, which it does not know, hear. */
export class Signal<What = void> {
  private readonly hearers = new Set<(what: What) => void>();

  send(what: What): void {
    for (const hear of [...this.hearers]) hear(what);
  }

  /** Has `hear` called at each sending; gives what ends it. */
  on(hear: (what: What) => void): () => void {
    this.hearers.add(hear);
    return () => void this.hearers.delete(hear);
  }
}
