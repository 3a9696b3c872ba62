import { useThree, type ThreeEvent } from "@react-three/fiber";
import { memo, useEffect, useMemo, useRef } from "react";
import {
  BufferAttribute,
  Color,
  DoubleSide,
  EdgesGeometry,
  FrontSide,
  Plane,
  Vector3,
  type Mesh,
} from "three";

import { useBench } from "../store";
import { lift, risesTo, sameRises } from "./lift";
import { planeOf, snappedTo, type Cut, type Spot } from "./probe";
import { unseen } from "./ProbeParts";
import { drawnByProcessor, useQuality } from "./quality";
import { colours, paint } from "./colours";
import type { Solid } from "./solid";
import { usePins } from "./usePins";

export type Shown = {
  section: number | null;
  cut: Cut | null;
  edges: boolean;
  ends: readonly Spot[];
  /** Takes a click on the solid for measuring or cutting; null: a click picks. */
  onProbe: ((spot: Spot) => void) | null;
};

const WASH = new Color("#1f7a72");
const LIGHT = new Color("#ffffff");

/** Edges between faces that meet at more than this angle, degrees. */
const EDGE_ANGLE = 25;
/** From so many points on a solid is heavy to draw. */
const HEAVY = 200_000;
const REMARK = "#c98a0b";
const NONE: readonly string[] = [];
/** How near (as a share of the solid) a corner must be to be taken. */
const SNAP = 0.015;

/** The solid that is worked on: regions light up, are picked, measured and cut. */
export function PieceMesh({ solid, section, cut, edges, onProbe }: Shown & { solid: Solid }) {
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
