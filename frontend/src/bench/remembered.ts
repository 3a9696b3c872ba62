/** What this browser remembers between visits; without storage it just forgets. */
const PREFIX = "drelo.";

export function recalled<T>(key: string, otherwise: T): T {
  try {
    const kept = localStorage.getItem(PREFIX + key);
    return kept === null ? otherwise : (JSON.parse(kept) as T);
  } catch {
    return otherwise;
  }
}

export function remember(key: string, value: unknown): void {
  try {
    localStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {
    // Without storage it is just not remembered.
  }
}
