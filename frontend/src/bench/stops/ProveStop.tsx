import { formatLength, unitName } from "../../ui/length";
import { useShown, useUnits } from "../select";
import { TakeAway } from "../TakeAway";
import { Figures } from "./parts";
import { ManyNames } from "./prove/ManyNames";

export function ProveStop() {
  const flat = useShown();
  const units = useUnits();
  const box = flat?.base_box ?? [0, 0, flat?.width ?? 0, flat?.height ?? 0];
  const unit = unitName(units);
  return (
    <>
      <TakeAway />
      <div className="mt-5">
        <Figures
          rows={[
            ["Width", `${formatLength(box[2] ?? 0, units)} ${unit}`],
            ["Depth", `${formatLength(box[3] ?? 0, units)} ${unit}`],
            ["Height", `${formatLength(flat?.total_height ?? 0, units)} ${unit}`],
            ["Remarks", String(flat?.remarks.length ?? 0)],
          ]}
        />
      </div>
      <div className="mt-6">
        <ManyNames />
      </div>
    </>
  );
}
