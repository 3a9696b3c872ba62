import { BufferAttribute, Mesh, type BufferGeometry } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

import type { Corners, Rising } from "./lift";
import { flatNormals } from "./normals";

export type Run = { region: string; colour: string; start: number; count: number };
export type Solid = Rising & {
  geometry: BufferGeometry;
  /** The corners as the solid came. */
  still: Corners;
  runs: Run[];
  size: [number, number, number];
};

const loader = new GLTFLoader();

/** A solid as the server sends it, binary glTF. */
export async function readSolid(data: ArrayBuffer): Promise<Solid> {
  const model = await loader.parseAsync(data, "");
  const meshes: Mesh[] = [];
  model.scene.traverse((node) => {
    if (node instanceof Mesh) meshes.push(node);
  });
  const [mesh] = meshes;
  if (!mesh) throw new Error("The solid came without a mesh.");
  const extras = mesh.userData as Rising & Pick<Solid, "runs" | "size">;
  const points = mesh.geometry.getAttribute("position").array as Float32Array;
  const still = { points, normals: flatNormals(points) };
  mesh.geometry.setAttribute("position", new BufferAttribute(points.slice(), 3));
  mesh.geometry.setAttribute("normal", new BufferAttribute(still.normals.slice(), 4, true));
  mesh.geometry.setDrawRange(0, extras.standing * 3);
  return { ...extras, geometry: mesh.geometry, still };
}
