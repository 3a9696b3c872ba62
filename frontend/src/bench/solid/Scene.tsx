import { memo } from "react";

import type { Signal } from "../../ui/signal";
import { Floor, Lights } from "./Lights";
import { Orbit, type Side } from "./Orbit";
import { PieceMesh, type Shown } from "./PieceMesh";
import { ProbeMarks } from "./ProbeParts";
import type { Solid } from "./solid";

/** Drawn anew only when what it shows changes: a heavy solid is costly to draw where the processor does it. */
export const Scene = memo(function Scene({
  solid,
  looked,
  ...shown
}: Shown & { solid: Solid | null; looked: Signal<Side> }) {
  const size = solid?.size ?? [60, 60, 3];
  const reach = Math.max(size[0], size[1], size[2], 1);
  return (
    <>
      <Lights reach={reach} />
      {solid && (
        <>
          <PieceMesh solid={solid} {...shown} />
          <ProbeMarks ends={shown.ends} reach={reach} />
          <Floor size={size} />
        </>
      )}
      <Orbit size={size} solid={solid} looked={looked} />
    </>
  );
});
