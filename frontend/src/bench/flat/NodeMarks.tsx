import { memo, useMemo } from "react";

import type { Flat } from "../../api/client";
import { isCorner, nodesOf, type Node } from "./nodes";
import type { Viewport } from "./viewport";

/** Half the length (px on the screen) of the tick of a smooth node, and the arm of a corner's wedge. */
const TICK = 5.5;
const WEDGE = 9;
/** More nodes than this on the sheet would only be a blur. */
const MOST = 6000;

/** Nodes show their nature: a short tick along the tangent, or a small wedge in the corner's angle. */
export function NodeSigns({ nodes, view }: { nodes: readonly Node[]; view: Viewport }) {
  let ticks = "";
  let wedges = "";
  for (const node of nodes) {
    const x = view.x + node.x * view.scale;
    const y = view.y + node.y * view.scale;
    const [ox, oy] = node.out;
    const [ix, iy] = node.in;
    if (isCorner(node))
      wedges += `M${x} ${y}L${x + ox * WEDGE} ${y + oy * WEDGE}L${x - ix * WEDGE} ${y - iy * WEDGE}Z`;
    else ticks += `M${x - ox * TICK} ${y - oy * TICK}L${x + ox * TICK} ${y + oy * TICK}`;
  }
  const round = { strokeLinecap: "round", strokeLinejoin: "round" } as const;
  return (
    <>
      {/* A rim in the colour of the sheet: a mark is whole on any ground, and on the outline's own line. */}
      <path d={ticks + wedges} fill="none" stroke="var(--sheet)" strokeWidth={6.5} {...round} />
      <path d={ticks} fill="none" stroke="var(--act)" strokeWidth={3.6} {...round} />
      <path d={wedges} fill="var(--act)" stroke="var(--act)" strokeWidth={2} {...round} />
    </>
  );
}

/** The nodes of all that is on the sheet. */
export const NodeMarks = memo(function NodeMarks({ flat, view }: { flat: Flat; view: Viewport }) {
  const nodes = useMemo(
    () => (flat.nodes > MOST ? [] : flat.regions.flatMap((region) => nodesOf(region.path))),
    [flat],
  );
  if (!nodes.length) return null;
  return (
    <g pointerEvents="none" data-nodes={flat.nodes}>
      <NodeSigns nodes={nodes} view={view} />
    </g>
  );
});
