import { Columns2, Expand } from "lucide-react";
import { lazy, Suspense, useEffect, type ReactNode } from "react";
import { Group, Panel, Separator, useGroupRef } from "react-resizable-panels";

import { patiently } from "../api/loading";
import { SignButton } from "../ui/Button";
import { arrange, keepShare, shareOf, swapViews, useArrangement } from "./arrangement";
import { Boundary } from "../ui/Boundary";
import { FlatView } from "./flat/FlatView";
import { Ladder } from "./Ladder";
import { LayerStrip } from "./prove/LayerStrip";
import { LayerView } from "./prove/LayerView";
import { useBench } from "./store";
import { hasHeights } from "./support";

const SolidView = lazy(patiently(() => import("./solid/SolidView")));

/** The narrowest that a view gets beside the other. */
const LEAST = "20%";
/** From this width on, in heights, art is wide. */
const WIDE = 1.7;
const EVEN = 50;

/** Flat and solid: the one that the stop is about fills the middle, the other is an inset; or both side by side. */
export function Views() {
  const stop = useBench((s) => s.stop);
  const how = useArrangement();
  const laddered = useBench(
    (s) =>
      s.stop === "Raise" && Boolean(s.flat?.regions.length) && hasHeights(s.piece?.document.form ?? "relief"),
  );
  // What is wide lies above its solid, both as wide as the middle; else they stand side by side.
  const wide = useBench((s) => (s.flat ? s.flat.width > WIDE * s.flat.height : false));
  const stacked = how === "both" && wide;
  const group = useGroupRef();
  const share = stacked ? EVEN : how === "both" ? shareOf(stop) : how === "flat" ? 100 : 0;
  const least = how === "both" ? LEAST : "0%";
  useEffect(() => {
    const set = () => group.current?.setLayout({ flat: share, solid: 100 - share });
    set();
    // The group holds panels to their former least sizes until it has drawn them with the new ones.
    const drawn = requestAnimationFrame(set);
    return () => cancelAnimationFrame(drawn);
  }, [group, share, least]);
  return (
    <div className="flex min-h-0 min-w-0">
      <Group
        groupRef={group}
        orientation={stacked ? "vertical" : "horizontal"}
        className="min-w-0 grow"
        defaultLayout={{ flat: share, solid: 100 - share }}
        onLayoutChanged={(layout, meta) => {
          if (meta.isUserInteraction && !stacked && layout.flat !== undefined) keepShare(stop, layout.flat);
        }}
      >
        <Panel id="flat" minSize={least}>
          <Pane name="flat" inset={how === "solid"}>
            <div className="flex h-full">
              <div className="min-w-0 grow">
                <Boundary what="The flat view">
                  {stop === "Prove" ? (
                    <LayerView inset={how === "solid"} />
                  ) : (
                    <FlatView inset={how === "solid"} />
                  )}
                </Boundary>
              </div>
              {stop === "Prove" && how !== "solid" && !stacked && <LayerStrip />}
              {laddered && how !== "solid" && !stacked && <Ladder />}
            </div>
          </Pane>
        </Panel>
        <Separator
          aria-label="Divider between flat and solid view"
          disabled={how !== "both"}
          className={`bg-rule hover:bg-act focus-visible:bg-act transition-colors outline-none ${how !== "both" ? "hidden" : stacked ? "h-[3px]" : "w-[3px]"}`}
        />
        <Panel id="solid" minSize={least}>
          <Pane name="solid" inset={how === "flat"}>
            <Suspense
              fallback={<p className="text-soft grid h-full place-items-center">Opening the solid view …</p>}
            >
              <Boundary what="The solid view">
                <SolidView inset={how === "flat"} />
              </Boundary>
            </Suspense>
          </Pane>
        </Panel>
      </Group>
      {laddered && stacked && <Ladder />}
      {stop === "Prove" && (how === "solid" || stacked) && <LayerStrip />}
    </div>
  );
}

/** One view; as an inset it stands below the contents and a click anywhere on it makes it large. */
function Pane({ name, inset, children }: { name: "flat" | "solid"; inset: boolean; children: ReactNode }) {
  return (
    <div
      data-inset={inset ? name : undefined}
      className={inset ? "border-rule absolute bottom-[30px] left-0 z-10 h-44 w-[211px] border-t" : "h-full"}
    >
      {children}
      {inset && (
        <>
          <button
            type="button"
            aria-label={`Enlarge the ${name} view`}
            title={`Enlarge the ${name} view (V)`}
            onClick={swapViews}
            className="group absolute inset-0 cursor-pointer focus-visible:-outline-offset-2"
          >
            <span className="bg-sheet/85 text-soft group-hover:text-ink absolute top-1.5 left-2 flex items-center gap-1.5 rounded px-1.5 text-[12.5px]">
              <Expand size={12} aria-hidden /> {name === "flat" ? "Flat" : "Solid"}
            </span>
          </button>
          <SignButton
            label="Show both views side by side (B)"
            className="bg-sheet/85 absolute! top-1 right-1 size-7!"
            onClick={() => arrange("both")}
          >
            <Columns2 size={14} />
          </SignButton>
        </>
      )}
    </div>
  );
}
