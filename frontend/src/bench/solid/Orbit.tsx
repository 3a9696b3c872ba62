import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import { Vector3, type PerspectiveCamera } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { Signal } from "../../ui/signal";
import { framed } from "./probe";
import type { Solid } from "./solid";

/** Directions from which the standard views look, z up. */
export const SIDES = {
  corner: [-0.42, -0.86, 0.78],
  top: [0, -0.0001, 1],
  front: [0, -1, 0.0001],
  right: [1, 0, 0.0001],
  bottom: [0, -0.0001, -1],
} as const;
export type Side = keyof typeof SIDES;
export const FIELD_OF_VIEW = 28;
/** How much of the view a standard view fills. */
const FILLED = 0.88;

/** Drag turns the solid, the wheel brings it nearer, the other button shifts it; standard views frame it. */
export function Orbit({
  size: [width, depth, height],
  solid,
  looked,
}: {
  size: Solid["size"];
  solid: Solid | null;
  looked: Signal<Side>;
}) {
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
    // Until the maker turns the piece, it stays framed.
    if (!touched.current) look(side.current);
    return looked.on((next) => {
      side.current = next;
      touched.current = false;
      look(next);
    });
  }, [there, width, depth, height, camera, frame.width, frame.height, invalidate, looked]);
  return null;
}
