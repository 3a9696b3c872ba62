/** What one window of the same browser tells the others: at which revision a piece stands. */
export type Told = { piece: string; revision: number };

const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("drelo");

export function tell(told: Told): void {
  channel?.postMessage(told);
}

/** Hears what other windows tell until the returned function is called. */
export function listen(heard: (told: Told) => void): () => void {
  const take = (event: MessageEvent<Told>) => heard(event.data);
  channel?.addEventListener("message", take);
  return () => channel?.removeEventListener("message", take);
}
