import { Canvas, useThree, type ThreeEvent } from "@react-three/fiber";
import { Box, Hexagon, RotateCcw, Ruler, Slice, SquareSplitVertical } from "lucide-react";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import {
  BufferAttribute,
  Color,
  DoubleSide,
  EdgesGeometry,
  FrontSide,
  Plane,
  Vector3,
  type Mesh,
  type PerspectiveCamera,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import { SignButton } from "../../ui/Button";
import { formatLength, unitName } from "../../ui/length";
import { FillMiddle } from "../FillMiddle";
import { useUnits } from "../select";
import { useBench } from "../store";
import { useStanding } from "../prove/useStanding";
import { usePins } from "./usePins";
import { lift, risesTo, sameRises } from "./lift";
import { drawnByProcessor, useQuality, useWholePixels } from "./quality";
import { framed, planeOf, snappedTo, type Cut, type Spot } from "./probe";
import { CutControls, Measurement, ProbeMarks, unseen } from "./ProbeParts";
import { somethingStands, useSolid, type Run, type Solid } from "./useSolid";

/** Directions from which the standard views look, z up. */
const SIDES = {
  corner: [-0.42, -0.86, 0.78],
  top: [0, -0.0001, 1],
  front: [0, -1, 0.0001],
  right: [1, 0, 0.0001],
  bottom: [0, -0.0001, -1],
} as const;
type Side = keyof typeof SIDES;
const NAMES: Record<Side, string> = {
  corner: "Corner",
  top: "Top",
  front: "Front",
  right: "Right",
  bottom: "Bottom",
};
const LOOK_EVENT = "drelo-look";
const FIELD_OF_VIEW = 28;
/** How much of the view a standard view fills. */
const FILLED = 0.88;

/** The solid: drag turns it, the wheel brings it nearer, the other button shifts it. */
export default memo(function SolidView({ inset }: { inset: boolean }) {
  const { solid, problem } = useSolid();
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
  const look = (side: Side) => window.dispatchEvent(new CustomEvent(LOOK_EVENT, { detail: side }));
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
          aria-label="The solid"
          onPointerMissed={(event) => event.button === 0 && useBench.getState().pick(null, false)}
        >
          <Scene
            solid={solid}
            section={section ?? standing}
            cut={cut}
            edges={edges}
            ends={cut ? NO_ENDS : ends}
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

type Shown = {
  section: number | null;
  cut: Cut | null;
  edges: boolean;
  ends: readonly Spot[];
  /** Takes a click on the solid for measuring or cutting; null: a click picks. */
  onProbe: ((spot: Spot) => void) | null;
};

/** Drawn anew only when what it shows changes: a heavy solid is costly to draw where the processor does it. */
const Scene = memo(function Scene({ solid, ...shown }: Shown & { solid: Solid | null }) {
  const size = solid?.size ?? [60, 60, 3];
  const reach = Math.max(size[0], size[1], size[2], 1);
  return (
    <>
      <hemisphereLight args={["#ffffff", "#cbbfa9", 1.9]} />
      <directionalLight
        castShadow
        position={[-reach * 0.9, reach * 0.55, reach * 1.25]}
        intensity={1.9}
        shadow-mapSize={[2048, 2048]}
        shadow-bias={-0.0008}
        shadow-normalBias={reach * 0.0016}
        shadow-radius={4}
        shadow-camera-left={-reach}
        shadow-camera-right={reach}
        shadow-camera-top={reach}
        shadow-camera-bottom={-reach}
        shadow-camera-near={reach * 0.05}
        shadow-camera-far={reach * 4}
      />
      <directionalLight position={[reach * 0.5, -reach, reach * 0.35]} intensity={1.1} />
      {solid && (
        <>
          <Piece solid={solid} {...shown} />
          <ProbeMarks ends={shown.ends} reach={reach} />
          {/* No shadow reaches farther than the piece is high: floor beyond that costs time and shows nothing. */}
          <mesh position={[0, 0, -0.02]} receiveShadow raycast={unseen}>
            <planeGeometry args={[size[0] + 2 * size[2], size[1] + 2 * size[2]]} />
            <shadowMaterial opacity={0.2} />
          </mesh>
        </>
      )}
      <Orbit size={size} solid={solid} />
    </>
  );
});

const WASH = new Color("#1f7a72");
const LIGHT = new Color("#ffffff");

/** Edges between faces that meet at more than this angle, degrees. */
const EDGE_ANGLE = 25;
/** From so many points on a solid is heavy to draw. */
const HEAVY = 200_000;
const REMARK = "#c98a0b";
const NONE: readonly string[] = [];
const NO_ENDS: readonly Spot[] = [];
/** How near (as a share of the solid) a corner must be to be taken. */
const SNAP = 0.015;

function Piece({ solid, section, cut, edges, onProbe }: Shown & { solid: Solid }) {
  const mesh = useRef<Mesh>(null);
  const castShadows = useQuality();
  // To draw a heavy solid anew takes seconds where the processor does it: then nothing lights up in it.
  const slow = drawnByProcessor() && solid.geometry.getAttribute("position").count > HEAVY;
  const picked = useBench((s) => (slow ? NONE : s.picked));
  const hover = useBench((s) => (slow ? null : s.hover));
  const invalidate = useThree((s) => s.invalidate);
  const plain = useMemo(() => colours(solid), [solid]);
  const planes = useMemo(() => {
    const level = section === null ? [] : [new Plane(new Vector3(0, 0, -1), solid.size[2] * section)];
    const along = cut && planeOf(cut);
    if (!along) return level;
    const upright = new Plane().setFromNormalAndCoplanarPoint(
      new Vector3(...along.normal),
      new Vector3(...along.at),
    );
    return [...level, upright];
  }, [section, cut, solid]);
  const outline = useMemo(
    () => (edges ? new EdgesGeometry(solid.geometry, EDGE_ANGLE) : null),
    [edges, solid],
  );
  useEffect(() => () => outline?.dispose(), [outline]);
  const flat = useBench((s) => s.flat);
  const draft = useBench((s) => s.draft);
  const waiting = useBench((s) => s.waiting);
  const rises = useMemo(() => risesTo(solid, flat, [...waiting, draft]), [solid, flat, waiting, draft]);
  const applied = useRef<{ solid: Solid; rises: ReadonlyMap<string, number> | null }>({ solid, rises: null });
  useEffect(() => {
    const before = applied.current.solid === solid ? applied.current.rises : null;
    applied.current = { solid, rises };
    if (sameRises(before, rises)) return;
    show(solid, rises);
    castShadows();
    // Benchmarks read how long the way from hand to screen is.
    performance.mark("drelo-lift");
  }, [solid, rises, castShadows]);
  useEffect(castShadows, [solid, planes, castShadows]);
  useEffect(() => invalidate(), [outline, invalidate]);

  useEffect(() => {
    const colour = new Color();
    const names = new Set(picked);
    const some = solid.runs.some((run) => names.has(run.region) || run.region === hover);
    const lit = some ? plain.slice() : plain;
    for (const run of solid.runs) {
      if (names.has(run.region)) paint(lit, run, colour.set(run.colour).lerp(WASH, 0.42));
      else if (run.region === hover) paint(lit, run, colour.set(run.colour).lerp(LIGHT, 0.22));
    }
    solid.geometry.setAttribute("color", new BufferAttribute(lit, 4, true));
    invalidate();
  }, [solid, plain, picked, hover, invalidate]);

  const regionAt = (event: ThreeEvent<PointerEvent | MouseEvent>) => {
    const face = event.faceIndex ?? -1;
    const run = solid.runs.find((r) => face >= r.start && face < r.start + r.count);
    return run && run.region !== "base" ? run.region : null;
  };
  const { setHover, pick } = useBench.getState();
  const faceDown = useBench((s) => s.stop === "Prove" && Boolean(s.piece?.document.printing.face_down));
  // At Prove it stands as it is printed.
  const turned: [number, number, number] = faceDown ? [Math.PI, 0, 0] : [0, 0, 0];
  return (
    <>
      <group position={[-solid.size[0] / 2, -solid.size[1] / 2, 0]}>
        <Pins reach={Math.max(...solid.size)} />
      </group>
      <group rotation={turned} position={[0, 0, faceDown ? solid.size[2] : 0]}>
        <group position={[-solid.size[0] / 2, -solid.size[1] / 2, 0]}>
          {outline && (
            <lineSegments geometry={outline} raycast={unseen}>
              <lineBasicMaterial color="#23262b" transparent opacity={0.55} clippingPlanes={planes} />
            </lineSegments>
          )}
          <mesh
            ref={mesh}
            castShadow
            receiveShadow
            geometry={solid.geometry}
            onPointerMove={(event) => setHover(regionAt(event))}
            onPointerOut={() => setHover(null)}
            onClick={(event) => {
              if (event.delta > 4) return;
              if (onProbe) {
                event.stopPropagation();
                onProbe(probedAt(event, solid));
                return;
              }
              pick(regionAt(event), event.shiftKey || event.ctrlKey || event.metaKey);
            }}
          >
            <meshLambertMaterial
              // The inside is seen only where the piece is cut.
              key={planes.length ? "cut" : "whole"}
              vertexColors
              side={planes.length ? DoubleSide : FrontSide}
              shadowSide={DoubleSide}
              clippingPlanes={planes}
              clipShadows
            />
          </mesh>
        </group>
      </group>
    </>
  );
}

/** A ring in the colour of remarks on each place that will not print, seen through what lies before it. */
const Pins = memo(function Pins({ reach }: { reach: number }) {
  const pins = usePins();
  return pins.map(({ at, picked }, i) => (
    <mesh key={i} position={at} renderOrder={2} raycast={unseen}>
      <ringGeometry args={[reach * 0.012, reach * (picked ? 0.02 : 0.016), 32]} />
      <meshBasicMaterial color={REMARK} depthTest={false} transparent side={DoubleSide} />
    </mesh>
  ));
});

/** Where a click met the solid, in the scene: at a corner of the face that it met when one is near. */
function probedAt(event: ThreeEvent<MouseEvent>, solid: Solid): Spot {
  const point = event.point.toArray() as unknown as Spot;
  const at = solid.geometry.getAttribute("position");
  const [x, y] = solid.size;
  const corners = event.face
    ? [event.face.a, event.face.b, event.face.c].map((i): Spot => [
        at.getX(i) - x / 2,
        at.getY(i) - y / 2,
        at.getZ(i),
      ])
    : [];
  return snappedTo(point, corners, Math.max(...solid.size) * SNAP);
}

const NOWHERE: ReadonlyMap<string, number> = new Map();

/** Shows a solid with regions moved up or down. */
function show(solid: Solid, rises: ReadonlyMap<string, number> | null) {
  const { geometry, still, size } = solid;
  const [points, normals] = [geometry.getAttribute("position"), geometry.getAttribute("normal")];
  const corners = { points: points.array as Float32Array, normals: normals.array as Int8Array };
  const drawn = lift(corners, still, solid, rises ?? NOWHERE);
  geometry.setDrawRange(0, drawn * 3);
  points.needsUpdate = true;
  normals.needsUpdate = true;
  // A click looks for the solid within these.
  const most = Math.max(0, ...(rises?.values() ?? []));
  if (geometry.boundingBox) geometry.boundingBox.max.z = geometry.boundingBox.min.z + size[2] + most;
  if (geometry.boundingSphere) geometry.boundingSphere.radius = Math.hypot(...size) / 2 + most;
}

/** A colour for every corner: red, green, blue and cover, up to 255. */
function colours(solid: Solid): Uint8Array {
  const last = solid.runs.at(-1);
  const result = new Uint8Array(last ? (last.start + last.count) * 12 : 0).fill(255);
  const colour = new Color();
  for (const run of solid.runs) paint(result, run, colour.set(run.colour));
  return result;
}

function paint(corners: Uint8Array, run: Run, { r, g, b }: Color) {
  for (let i = run.start * 12; i < (run.start + run.count) * 12; i += 4) {
    corners[i] = Math.round(r * 255);
    corners[i + 1] = Math.round(g * 255);
    corners[i + 2] = Math.round(b * 255);
  }
}

function Orbit({ size: [width, depth, height], solid }: { size: Solid["size"]; solid: Solid | null }) {
  const camera = useThree((s) => s.camera) as PerspectiveCamera;
  const canvas = useThree((s) => s.gl.domElement);
  const frame = useThree((s) => s.size);
  const invalidate = useThree((s) => s.invalidate);
  const controls = useRef<OrbitControls | null>(null);
  const touched = useRef(false);
  const side = useRef<Side>("corner");
  const shown = useRef(solid);
  useEffect(() => {
    shown.current = solid;
  }, [solid]);
  const there = solid !== null;

  useEffect(() => {
    const orbit = new OrbitControls(camera, canvas);
    orbit.enableDamping = false;
    orbit.maxDistance = 4000;
    orbit.minDistance = 2;
    // A click alone turns nothing: the piece stays framed.
    let held = false;
    const changed = () => {
      touched.current ||= held;
      invalidate();
    };
    orbit.addEventListener("change", changed);
    orbit.addEventListener("start", () => (held = true));
    orbit.addEventListener("end", () => (held = false));
    controls.current = orbit;
    return () => orbit.dispose();
  }, [camera, canvas, invalidate]);

  useEffect(() => {
    const look = (next: Side) => {
      const half = Math.tan((FIELD_OF_VIEW * Math.PI) / 360) * FILLED;
      const halves = [(half * frame.width) / Math.max(frame.height, 1), half] as const;
      const from = new Vector3(...SIDES[next]).normalize();
      const points = shown.current?.still.points;
      if (!points) return;
      const seen = framed(from, points, [width / 2, depth / 2, height / 2], halves);
      const right = new Vector3(0, 0, 1).cross(from).normalize();
      const target = new Vector3(0, 0, height / 2)
        .addScaledVector(right, seen.right)
        .addScaledVector(from.clone().cross(right), seen.up);
      camera.position.copy(from).multiplyScalar(seen.distance).add(target);
      if (controls.current) {
        controls.current.target.copy(target);
        controls.current.update();
      }
      // A press that comes before the next frame must meet what will be seen then.
      camera.updateMatrixWorld();
      invalidate();
    };
    const asked = (event: Event) => {
      side.current = (event as CustomEvent<Side>).detail;
      touched.current = false;
      look(side.current);
    };
    // Until the maker turns the piece, it stays framed.
    if (!touched.current) look(side.current);
    window.addEventListener(LOOK_EVENT, asked);
    return () => window.removeEventListener(LOOK_EVENT, asked);
  }, [there, width, depth, height, camera, frame.width, frame.height, invalidate]);
  return null;
}
