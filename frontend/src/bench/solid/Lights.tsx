import { unseen } from "./ProbeParts";

/** The light that a solid is seen in. reach: its longest side, mm. */
export function Lights({ reach }: { reach: number }) {
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
    </>
  );
}

/** What the solid stands on: its shadow alone is seen. */
export function Floor({ size }: { size: readonly [number, number, number] }) {
  return (
    <mesh position={[0, 0, -0.02]} receiveShadow raycast={unseen}>
      <planeGeometry args={[size[0] + 2 * size[2], size[1] + 2 * size[2]]} />
      <shadowMaterial opacity={0.2} />
    </mesh>
  );
}
