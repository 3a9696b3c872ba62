import { lazy, Suspense, useEffect } from "react";
import { Group, Panel, Separator, useGroupRef } from "react-resizable-panels";

import { FlatView } from "./flat/FlatView";
import { Ladder } from "./Ladder";
import { keepShare, keptShare, useBench, type Stop } from "./store";

const SolidView = lazy(() => import("./solid/SolidView"));

/** The flat view's share of the middle that suits each stop, in percent. */
const SHARES: Record<Stop, number> = { Gather: 66, Trace: 62, Shape: 68, Raise: 56, Prove: 36 };

/** Flat and solid side by side, with a divider whose place is remembered for every stop. */
export function Views() {
  const stop = useBench((s) => s.stop);
  const laddered = useBench(
    (s) =>
      s.stop === "Raise" &&
      Boolean(s.flat?.regions.length) &&
      ["relief", "nameplate"].includes(s.piece?.document.form ?? "relief"),
  );
  const group = useGroupRef();
  const share = keptShare(stop, SHARES[stop]);
  useEffect(() => {
    group.current?.setLayout({ flat: share, solid: 100 - share });
  }, [group, share]);
  return (
    <Group
      groupRef={group}
      orientation="horizontal"
      className="min-w-0"
      defaultLayout={{ flat: share, solid: 100 - share }}
      onLayoutChanged={(layout, meta) => {
        if (meta.isUserInteraction && layout.flat !== undefined)
          keepShare(useBench.getState().stop, layout.flat);
      }}
    >
      <Panel id="flat" minSize="20%">
        <div className="flex h-full">
          <div className="min-w-0 grow">
            <FlatView />
          </div>
          {laddered && <Ladder />}
        </div>
      </Panel>
      <Separator
        aria-label="Divider between flat and solid view"
        className="bg-rule hover:bg-act focus-visible:bg-act w-[3px] transition-colors outline-none"
      />
      <Panel id="solid" minSize="20%">
        <Suspense
          fallback={<p className="text-soft grid h-full place-items-center">Bringing the solid view …</p>}
        >
          <SolidView />
        </Suspense>
      </Panel>
    </Group>
  );
}
