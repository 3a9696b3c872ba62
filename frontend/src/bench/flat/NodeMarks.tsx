import { memo } from "react";

import type { Flat } from "../../api/client";
import { isCorner, nodesOf } from "./nodes";
import type { Viewport } from "./viewport";

/** Half the length (px on the screen) of the tick of a smooth node, and the arm of a corner's wedge. */
const TICK = 5;
const WEDGE = 7;
/** More nodes than this on the sheet would only be a blur. */
const MOST = 6000;

/** Nodes show their nature: a short tick along the tangent, or a small wedge in the corner's angle. */
export const NodeMarks = memo(function NodeMarks({ flat, view }: { flat: Flat; view: Viewport }) {
  if (flat.nodes > MOST) return null;
  let ticks = "";
  let wedges = "";
  for (const region of flat.regions)
    for (const node of nodesOf(region.path)) {
      const x = view.x + node.x * view.scale;
      const y = view.y + node.y * view.scale;
      const [ox, oy] = node.out;
      const [ix, iy] = node.in;
      if (isCorner(node))
        wedges += `M${x} ${y}L${x + ox * WEDGE} ${y + oy * WEDGE}L${x - ix * WEDGE} ${y - iy * WEDGE}Z`;
      else ticks += `M${x - ox * TICK} ${y - oy * TICK}L${x + ox * TICK} ${y + oy * TICK}`;
    }
  return (
    <g pointerEvents="none" data-nodes={flat.nodes}>
      <path d={ticks} fill="none" stroke="var(--act)" strokeWidth={2.4} strokeLinecap="round" />
      <path d={wedges} fill="var(--act)" />
    </g>
  );
});
