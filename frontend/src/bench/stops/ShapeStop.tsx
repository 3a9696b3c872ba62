import { Choice } from "../../ui/fields";
import { PARTS, useShape } from "../shape/state";
import { useShown } from "../select";
import { ChangePart } from "./shape/ChangePart";
import { CheckPart } from "./shape/CheckPart";
import { ColourOfPick } from "./shape/ColourOfPick";
import { DrawPart } from "./shape/DrawPart";

import { PickedPanel } from "./shape/PickedPanel";
import { PlacePart } from "./shape/PlacePart";

const OPTIONS = PARTS.map((value) => ({ value, name: value }));

export function ShapeStop() {
  const part = useShape((s) => s.part);
  const { set } = useShape.getState();
  const flat = useShown();
  if (!flat) return null;
  return (
    <>
      <div className="mb-4">
        <Choice
          label="Part of shaping"
          value={part}
          options={OPTIONS}
          onChange={(next) => set({ part: next })}
        />
      </div>
      {part === "Draw" && (
        <>
          <PickedPanel />
          <ColourOfPick />
          <DrawPart />
        </>
      )}
      {part === "Change" && <ChangePart />}
      {part === "Place" && <PlacePart flat={flat} />}
      {part === "Check" && <CheckPart />}
    </>
  );
}
