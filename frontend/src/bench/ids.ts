/** A new id that nothing in a piece has yet. */
export function freshId(kind: string): string {
  return kind + crypto.getRandomValues(new Uint32Array(2)).join("").slice(0, 14);
}
