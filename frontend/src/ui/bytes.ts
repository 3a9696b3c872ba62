/** How large something is, as one says it. */
export function inBytes(bytes: number): string {
  if (bytes === 0) return "0 kB";
  if (bytes < 1e6) return `${Math.max(1, Math.round(bytes / 1e3))} kB`;
  if (bytes < 1e9) return `${(bytes / 1e6).toFixed(1)} MB`;
  return `${(bytes / 1e9).toFixed(1)} GB`;
}
