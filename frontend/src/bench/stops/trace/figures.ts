import type { Flat, Picture } from "../../../api/client";
import { isCorner, nodesOf } from "../../flat/nodes";

export type TraceFigures = { outlines: number; nodes: number; corners: number };

/** What a trace comes to: the outlines that are kept, their nodes, and how many of these are corners. */
export function figuresOf(flat: Flat): TraceFigures {
  const kept = flat.regions.filter((r) => !r.left_out);
  const corners = kept.reduce((sum, r) => sum + nodesOf(r.path).filter(isCorner).length, 0);
  return { outlines: kept.length, nodes: flat.nodes, corners };
}

export function told({ outlines, nodes }: TraceFigures): string {
  return `${outlines} ${outlines === 1 ? "outline" : "outlines"}, ${nodes} nodes`;
}

/** Whether a picture is traced as an attempt did. */
export function standsNow(
  attempt: Picture["attempts"][number],
  picture: Picture | null | undefined,
): boolean {
  return (
    JSON.stringify(attempt.trace) === JSON.stringify(picture?.trace) &&
    JSON.stringify(attempt.areas) === JSON.stringify(picture?.areas)
  );
}
