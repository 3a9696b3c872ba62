import { useMemo } from "react";
import { BufferGeometry, Vector3 } from "three";

import { SignButton } from "../../ui/Button";
import { formatLength, unitName } from "../../ui/length";
import { FlipHorizontal2 } from "lucide-react";
import { useUnits } from "../select";
import { wayBetween, type Cut, type Spot } from "./probe";

const COLOUR = "#c98a0b";

/** The pointer passes through: one function for all, since a new one would have everything drawn anew. */
export const unseen = () => null;

/** The points that were clicked on the solid and the line between them, seen through what lies before them. */
export function ProbeMarks({ ends, reach }: { ends: readonly Spot[]; reach: number }) {
  const line = useMemo(() => new BufferGeometry().setFromPoints(ends.map((p) => new Vector3(...p))), [ends]);
  return (
    <>
      {ends.map((at, i) => (
        <mesh key={i} position={at as [number, number, number]} renderOrder={3} raycast={unseen}>
          <sphereGeometry args={[reach * 0.008, 16, 12]} />
          <meshBasicMaterial color={COLOUR} depthTest={false} transparent />
        </mesh>
      ))}
      {ends.length === 2 && (
        <lineSegments geometry={line} renderOrder={3} raycast={unseen}>
          <lineBasicMaterial color={COLOUR} depthTest={false} transparent />
        </lineSegments>
      )}
    </>
  );
}

/** What was measured, or what to click next. */
export function Measurement({ ends }: { ends: readonly Spot[] }) {
  const units = useUnits();
  const mm = (value: number) => formatLength(value, units);
  const [from, to] = ends;
  if (!from || !to)
    return (
      <Note>{from ? "Click the other point." : "Click two points of the solid; corners are taken."}</Note>
    );
  const way = wayBetween(from, to);
  return (
    <Note>
      <b className="text-[14px]">
        {mm(way.distance)} {unitName(units)}
      </b>
      <span className="text-soft">
        across {mm(way.across)}, deep {mm(way.deep)}, up {mm(way.up)}
      </span>
    </Note>
  );
}

/** Moves a cut along a line, and turns it over. */
export function CutControls({
  cut,
  reach,
  onChange,
}: {
  cut: Cut | null;
  reach: number;
  onChange: (moved: { shift: number; turned: boolean }) => void;
}) {
  const units = useUnits();
  if (!cut) return <Note>Click two points: the solid is cut upright along the line between them.</Note>;
  const words = `${formatLength(cut.shift, units)} ${unitName(units)}`;
  return (
    <Note>
      <label className="flex items-center gap-2">
        Moved
        <input
          type="range"
          min={-reach}
          max={reach}
          step={reach / 200}
          value={cut.shift}
          aria-valuetext={words}
          onChange={(event) => onChange({ turned: cut.turned, shift: Number(event.target.value) })}
          className="accent-act w-20 @md:w-32"
        />
        <span className="w-16 text-right">{words}</span>
      </label>
      <SignButton
        label="Keep the other side"
        pressed={cut.turned}
        onClick={() => onChange({ turned: !cut.turned, shift: -cut.shift })}
      >
        <FlipHorizontal2 size={15} />
      </SignButton>
    </Note>
  );
}

function Note({ children }: { children: React.ReactNode }) {
  return (
    <div
      role="status"
      className="bg-sheet/90 absolute inset-x-3 bottom-3 ml-auto flex w-fit flex-wrap items-center justify-end gap-x-3 rounded-md px-3 py-1.5 text-xs"
    >
      {children}
    </div>
  );
}
