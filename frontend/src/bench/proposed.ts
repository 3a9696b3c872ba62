import type { Edit } from "../api/client";

/** An edit that the server proposes, without the values that it leaves open: sent as null they would be taken back. */
export const proposed = (edit: { do: string }): Edit =>
  Object.fromEntries(
    Object.entries(edit as Record<string, unknown>).filter(([, value]) => value !== null),
  ) as Edit;
