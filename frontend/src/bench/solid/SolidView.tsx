import { Canvas } from "@react-three/fiber";
import { Box, Hexagon, RotateCcw, Ruler, Slice, SquareSplitVertical } from "lucide-react";
import { memo, useMemo, useState } from "react";

import { SignButton } from "../../ui/Button";
import { formatLength, unitName } from "../../ui/length";
import { Signal } from "../../ui/signal";
import { FillMiddle } from "../FillMiddle";
import { useUnits } from "../select";
import { useBench } from "../store";
import { useStanding } from "../prove/useStanding";
import { drawnByProcessor, useWholePixels } from "./quality";
import { FIELD_OF_VIEW, SIDES, type Side } from "./Orbit";
import type { Cut, Spot } from "./probe";
import { CutControls, Measurement } from "./ProbeParts";
import { Scene } from "./Scene";
import { somethingStands, useSolid } from "./useSolid";

const NAMES: Record<Side, string> = {
  corner: "Corner",
  top: "Top",
  front: "Front",
  right: "Right",
  bottom: "Bottom",
};
const NO_ENDS: readonly Spot[] = [];

/** The solid: drag turns it, the wheel brings it nearer, the other button shifts it. */
export default memo(function SolidView({ inset }: { inset: boolean }) {
  const { solid, problem } = useSolid();
  const units = useUnits();
  const empty = useBench((s) => !somethingStands(s.flat));
  const whole = useWholePixels();
  /** The height above which everything is cut away, as a share of the whole; null: nothing is. */
  const [section, setSection] = useState<number | null>(null);
  // At Prove the solid stands as high as the layer that is looked at.
  const standing = useStanding();
  const [edges, setEdges] = useState(false);
  const [probing, setProbing] = useState<"measure" | "cut" | null>(null);
  const [ends, setEnds] = useState<readonly Spot[]>([]);
  const [moved, setMoved] = useState({ shift: 0, turned: false });
  const reach = solid ? Math.max(...solid.size) : 1;
  const [from, to] = ends;
  const cut = useMemo<Cut | null>(
    () => (probing === "cut" && from && to ? { from, to, ...moved } : null),
    [probing, from, to, moved],
  );
  const probe = (next: "measure" | "cut") => {
    setProbing(probing === next ? null : next);
    setEnds([]);
    setMoved({ shift: 0, turned: false });
  };
  const clicked = (spot: Spot) => setEnds((before) => (before.length === 1 ? [...before, spot] : [spot]));
  const looked = useMemo(() => new Signal<Side>(), []);
  const look = (side: Side) => looked.send(side);
  return (
    <section
      aria-label="Solid view"
      className="@container relative h-full"
      style={{ background: "var(--backdrop)" }}
    >
      <div
        ref={whole}
        data-solid-dimmed={problem ? "" : undefined}
        className={`absolute inset-0 transition-opacity ${problem ? "opacity-35" : ""}`}
      >
        <Canvas
          shadows="percentage"
          frameloop="demand"
          camera={{ fov: FIELD_OF_VIEW, up: [0, 0, 1], position: [-60, -120, 110], near: 0.5, far: 8000 }}
          gl={{ antialias: !drawnByProcessor() }}
          onCreated={({ gl }) => {
            gl.localClippingEnabled = true;
            // Shadows change only with the solid or the cut; to draw them for each turn would double the work.
            gl.shadowMap.autoUpdate = false;
          }}
          dpr={drawnByProcessor() ? 1 : [1, 2]}
          fallback={
            <p className="grid h-full place-items-center">
              This browser cannot show the solid: WebGL 2 is off.
            </p>
          }
          role="img"
          aria-label={
            solid
              ? `The solid, ${solid.size.map((side) => formatLength(side, units)).join(" by ")} ${unitName(units)}`
              : "The solid"
          }
          onPointerMissed={(event) => event.button === 0 && useBench.getState().pick(null, false)}
        >
          <Scene
            solid={solid}
            section={section ?? standing}
            cut={cut}
            edges={edges}
            ends={cut ? NO_ENDS : ends}
            looked={looked}
            onProbe={probing === null || cut ? null : clicked}
          />
        </Canvas>
      </div>
      {solid && !inset && section !== null && (
        <SectionSlider height={solid.size[2]} value={section} onChange={setSection} />
      )}
      {solid && probing === "measure" && <Measurement ends={ends} />}
      {solid && probing === "cut" && <CutControls cut={cut} reach={reach} onChange={setMoved} />}
      <header
        hidden={inset}
        className="pointer-events-none absolute inset-x-0 top-0 flex items-start justify-between p-2.5 [&[hidden]]:hidden"
      >
        <h2 className="hidden px-1.5 text-[15px] @sm:block">Solid</h2>
        <div
          role="group"
          aria-label="Standard views"
          className="bg-sheet/75 pointer-events-auto ml-auto flex flex-wrap justify-end rounded-md"
        >
          <SignButton label="Show edges" pressed={edges} onClick={() => setEdges(!edges)}>
            <Hexagon size={15} />
          </SignButton>
          <SignButton
            label="Cut at a height"
            pressed={section !== null}
            onClick={() => setSection(section === null ? 0.5 : null)}
          >
            <SquareSplitVertical size={15} />
          </SignButton>
          <SignButton label="Cut along a line" pressed={probing === "cut"} onClick={() => probe("cut")}>
            <Slice size={15} />
          </SignButton>
          <SignButton
            label="Measure between two points"
            pressed={probing === "measure"}
            onClick={() => probe("measure")}
          >
            <Ruler size={15} />
          </SignButton>
          <FillMiddle name="solid" />
          {(Object.keys(SIDES) as Side[]).map((side) =>
            side === "corner" ? (
              <SignButton key={side} label="Corner view" onClick={() => look(side)}>
                <Box size={16} />
              </SignButton>
            ) : (
              <button
                key={side}
                type="button"
                aria-label={`${NAMES[side]} view`}
                onClick={() => look(side)}
                className="text-soft hover:bg-act-wash hover:text-ink h-8 min-w-6 rounded-md px-1 text-xs @md:px-1.5"
              >
                <span className="hidden @md:inline">{NAMES[side]}</span>
                <span className="@md:hidden">{NAMES[side][0]}</span>
              </button>
            ),
          )}
        </div>
      </header>
      {problem && (
        <p
          role="alert"
          className="border-error bg-error-wash absolute inset-x-4 bottom-4 rounded-r-md border-l-4 px-3 py-2"
        >
          {problem}
        </p>
      )}
      {empty && (
        <p className="text-soft pointer-events-none absolute inset-0 grid place-items-center px-8 text-center">
          The solid appears here as soon as there is an outline.
        </p>
      )}
      {!empty && !solid && !problem && (
        <p role="status" className="text-soft pointer-events-none absolute inset-0 grid place-items-center">
          <span className="flex items-center gap-2">
            <RotateCcw size={15} className="animate-spin" aria-hidden /> Raising the regions …
          </span>
        </p>
      )}
    </section>
  );
});

/** Moves the height at which the piece is cut through. */
function SectionSlider({
  height,
  value,
  onChange,
}: {
  height: number;
  value: number;
  onChange: (share: number) => void;
}) {
  const units = useUnits();
  const words = `${formatLength(height * value, units)} ${unitName(units)}`;
  return (
    <label className="bg-sheet/85 absolute bottom-3 left-3 flex items-center gap-2 rounded-md px-3 py-1.5 text-xs">
      Cut at
      <input
        type="range"
        min={0.01}
        max={1}
        step={0.005}
        value={value}
        aria-valuetext={words}
        onChange={(event) => onChange(Number(event.target.value))}
        className="accent-act w-36"
      />
      <span className="w-16 text-right">{words}</span>
    </label>
  );
}
