import { Canvas } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { BufferAttribute } from "three";

import { bytes } from "../../api/client";
import { colours } from "./colours";
import { Floor, Lights } from "./Lights";
import { FIELD_OF_VIEW, Orbit, type Side } from "./Orbit";
import { drawnByProcessor } from "./quality";
import { readSolid, type Solid } from "./solid";
import { Signal } from "../../ui/signal";

type Props = {
  /** What it is, as its accessible name. */
  name: string;
  /** What names it among all that was fetched. */
  of: readonly (string | number)[];
  fetched: (signal: AbortSignal) => Parameters<typeof bytes>[0];
};

/** A solid that stays as it is, to turn and look at. */
export default function StillSolid({ name, of, fetched }: Props) {
  const { data: solid, error } = useQuery({
    queryKey: ["still-solid", ...of],
    queryFn: async ({ signal }) => {
      const found = await readSolid(await bytes(fetched(signal)));
      found.geometry.setAttribute("color", new BufferAttribute(colours(found), 4, true));
      return found;
    },
    staleTime: Infinity,
    retry: false,
  });
  const looked = useMemo(() => new Signal<Side>(), []);
  if (error)
    return (
      <p role="alert" className="text-soft grid h-full place-items-center px-8 text-center">
        {error.message}
      </p>
    );
  if (!solid)
    return (
      <p role="status" className="text-soft grid h-full place-items-center">
        Raising the regions …
      </p>
    );
  return (
    <div className="absolute inset-0" style={{ background: "var(--backdrop)" }}>
      <Canvas
        shadows="percentage"
        frameloop="demand"
        camera={{ fov: FIELD_OF_VIEW, up: [0, 0, 1], position: [-60, -120, 110], near: 0.5, far: 8000 }}
        dpr={drawnByProcessor() ? 1 : [1, 2]}
        role="img"
        aria-label={name}
      >
        <Lights reach={Math.max(...solid.size, 1)} />
        <Still solid={solid} />
        <Floor size={solid.size} />
        <Orbit size={solid.size} solid={solid} looked={looked} />
      </Canvas>
    </div>
  );
}

function Still({ solid }: { solid: Solid }) {
  return (
    <group position={[-solid.size[0] / 2, -solid.size[1] / 2, 0]}>
      <mesh castShadow receiveShadow geometry={solid.geometry}>
        <meshLambertMaterial vertexColors />
      </mesh>
    </group>
  );
}
