import { ArrowRight } from "lucide-react";
import { useEffect, useState } from "react";

import { Button } from "../../../ui/Button";
import { formatLength, parseLength, parsePoint } from "../../../ui/length";
import type { Point } from "../../flat/place";
import { useUnits } from "../../select";
import { contoursOf } from "../../shape/contours";
import { addPoint, closeLine, leaveLine, useLine, useTip } from "../../shape/LineTool";
import { direction } from "../../shape/snaps";
import { useShape } from "../../shape/state";
import { usePicked } from "../../shape/useSheet";

/** The next point of a line by numbers: its place, or a length and a direction from the last one. */
export function ExactLine() {
  const along = useShape((s) => s.along);
  const { set } = useShape.getState();
  const units = useUnits();
  const picked = usePicked();
  const line = useLine();
  const tip = useTip();
  const [place, setPlace] = useState("");
  const [length, setLength] = useState("");
  const [angle, setAngle] = useState("");
  const [slope, setSlope] = useState("");
  const guide = picked.length === 1 ? longest(picked[0]?.path ?? "") : null;
  const mm = parseLength(length, units);
  const typed = slope.trim() ? direction(slope, "slope") : angle.trim() ? direction(angle, "angle") : null;
  // On the sheet y points down; a typed direction turns up from the right.
  const turn = along ?? (typed === null ? null : -typed);
  const there = parsePoint(place, units);
  const ahead: Point | null = there ?? (tip && mm !== null && turn !== null ? reached(tip, mm, turn) : null);
  const shown = ahead?.join(" ");
  useEffect(() => {
    const [x, y] = shown?.split(" ").map(Number) ?? [];
    set({ ghost: x === undefined || y === undefined ? null : [x, y] });
    return () => set({ ghost: null });
  }, [shown, set]);
  const setPoint = (to: Point | null) => {
    if (!to) return;
    if (tip) addPoint(to, "straight");
    else set({ begin: to });
    setPlace("");
    setLength("");
  };
  const arrow = (back: boolean) => ({
    transform: `rotate(${(((turn ?? 0) + (back ? Math.PI : 0)) * 180) / Math.PI}deg)`,
  });
  const known = tip !== null && mm !== null && turn !== null;
  return (
    <div className="border-rule mt-2 space-y-1.5 border-l-2 pl-2">
      <Typed
        label={tip ? "Next point at x, y" : "Start at x, y"}
        value={place}
        onChange={setPlace}
        onEnter={() => setPoint(there)}
        hint={tip ? tip.map((v) => formatLength(v, units)).join(", ") : "0, 0"}
      />
      <Typed
        label="Length"
        value={length}
        onChange={setLength}
        onEnter={() => setPoint(ahead)}
        hint={units === "mm" ? "12.5" : "1/2"}
      />
      {along === null ? (
        <>
          <Typed
            label="Angle"
            value={angle}
            onChange={(text) => {
              setAngle(text);
              setSlope("");
            }}
            onEnter={() => setPoint(ahead)}
            hint="30°"
          />
          <Typed
            label="Slope"
            value={slope}
            onChange={(text) => {
              setSlope(text);
              setAngle("");
            }}
            onEnter={() => setPoint(ahead)}
            hint="1/4, 4, 25%"
          />
        </>
      ) : (
        <p className="flex h-8 items-center justify-between">
          Keeps a direction
          <button type="button" className="text-act font-semibold" onClick={() => set({ along: null })}>
            Release
          </button>
        </p>
      )}
      {guide !== null && along === null && (
        <div className="grid grid-cols-2 gap-1.5">
          <Button onClick={() => set({ along: guide })}>Parallel</Button>
          <Button onClick={() => set({ along: guide + Math.PI / 2 })}>Square to it</Button>
        </div>
      )}
      <div className="grid grid-cols-2 gap-1.5">
        <Button disabled={!ahead} aria-label="Set the point" onClick={() => setPoint(ahead)}>
          {tip ? "Set" : "Start here"}
          {known && !there && <ArrowRight size={14} style={arrow(false)} aria-hidden />}
        </Button>
        <Button
          disabled={!known}
          aria-label="Set the point the other way"
          title="The same length the other way"
          onClick={() => known && setPoint(reached(tip, -mm, turn))}
        >
          Set <ArrowRight size={14} style={arrow(true)} aria-hidden />
        </Button>
        <Button disabled={!line || line.stretches.length < 2} onClick={closeLine}>
          Close
        </Button>
        <Button disabled={!tip} onClick={leaveLine}>
          Leave open
        </Button>
      </div>
    </div>
  );
}

const reached = ([x, y]: Point, length: number, turn: number): Point => [
  x + length * Math.cos(turn),
  y + length * Math.sin(turn),
];

/** Direction (radians on the sheet) of the longest straight segment of an outline. */
function longest(path: string): number | null {
  let best: number | null = null;
  let most = 0;
  for (const { segments } of contoursOf(path))
    for (const { points, straight } of segments) {
      const [dx, dy] = [points[3][0] - points[0][0], points[3][1] - points[0][1]];
      if (straight && Math.hypot(dx, dy) > most) {
        most = Math.hypot(dx, dy);
        best = Math.atan2(dy, dx);
      }
    }
  return best;
}

function Typed({
  label,
  value,
  hint,
  onChange,
  onEnter,
}: {
  label: string;
  value: string;
  hint: string;
  onChange: (text: string) => void;
  onEnter: () => void;
}) {
  return (
    <label className="grid grid-cols-[1fr_104px] items-center gap-x-2">
      {label}
      <input
        className="bg-sheet border-hair focus:border-act h-8 w-full min-w-0 rounded-md border px-2 outline-none"
        value={value}
        placeholder={hint}
        autoComplete="off"
        onChange={(event) => onChange(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && onEnter()}
      />
    </label>
  );
}
