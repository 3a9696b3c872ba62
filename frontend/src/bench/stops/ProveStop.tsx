import { formatLength, unitName } from "../../ui/length";
import { extentOf } from "../flat/place";
import { useShown, useUnits } from "../select";
import { ExportPanel } from "../ExportPanel";
import { Figures } from "./parts";
import { WeakSpots } from "./raise/WeakSpots";
import { ManyNames } from "./prove/ManyNames";

export function ProveStop() {
  const flat = useShown();
  const units = useUnits();
  const [width, depth] = flat ? extentOf(flat) : [0, 0];
  const unit = unitName(units);
  return (
    <>
      <ExportPanel />
      <div className="mt-5">
        <Figures
          rows={[
            ["Width", `${formatLength(width, units)} ${unit}`],
            ["Depth", `${formatLength(depth, units)} ${unit}`],
            ["Height", `${formatLength(flat?.total_height ?? 0, units)} ${unit}`],
          ]}
        />
      </div>
      <div className="mt-6">
        <WeakSpots />
        <ManyNames />
      </div>
    </>
  );
}
