import { Columns2, Contrast, Grid3x3, Maximize, Minus, Plus, Spline } from "lucide-react";

import type { Flat } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { FillMiddle } from "../FillMiddle";
import { useUnderlay } from "../select";
import { useBench } from "../store";
import { GRID_FROM } from "./Sheet";
import { UnderlayLook } from "./UnderlayLook";
import type { SheetView } from "./useSheetView";

/** The name of the view and, once something lies on the sheet, how it is looked at. */
export function FlatHeader({
  flat,
  sheet,
  filled,
  setFilled,
  nodes,
  setNodes,
}: {
  flat: Flat | null;
  sheet: SheetView;
  filled: boolean;
  setFilled: (filled: boolean) => void;
  nodes: boolean;
  setNodes: (nodes: boolean) => void;
}) {
  const stop = useBench((s) => s.stop);
  const wipe = useBench((s) => s.wipe);
  const underlay = useUnderlay();
  return (
    <header className="pointer-events-none absolute top-[22px] right-0 left-[22px] flex items-start justify-between p-2">
      <h2 className="bg-sheet/80 rounded px-1.5 text-[15px]">Flat</h2>
      {flat && (flat.underlays.length || flat.things.length || flat.base_path || stop === "Shape") ? (
        <div className="bg-sheet/85 pointer-events-auto flex flex-wrap items-center justify-end rounded-md">
          {stop !== "Gather" && flat.underlays.length > 0 && <UnderlayLook />}
          {stop === "Trace" && (
            <SignButton label="Fill the outlines" pressed={filled} onClick={() => setFilled(!filled)}>
              <Contrast size={15} />
            </SignButton>
          )}
          {stop === "Trace" && (
            <SignButton
              label="Wipe between picture and outlines"
              pressed={wipe !== null}
              onClick={() => useBench.getState().setWipe(wipe === null ? 0.5 : null, null)}
            >
              <Columns2 size={15} />
            </SignButton>
          )}
          {stop === "Trace" && (
            <SignButton
              label="Look at single pixels"
              pressed={(underlay?.mm_per_px ?? 0) * sheet.view.scale >= GRID_FROM}
              onClick={() => sheet.pixels(flat)}
            >
              <Grid3x3 size={15} />
            </SignButton>
          )}
          {stop !== "Gather" && (
            <SignButton label="Show nodes" pressed={nodes} onClick={() => setNodes(!nodes)}>
              <Spline size={15} />
            </SignButton>
          )}
          <SignButton label="Zoom out" onClick={() => sheet.zoom(1 / 1.25)}>
            <Minus size={16} />
          </SignButton>
          <SignButton label="Zoom in" onClick={() => sheet.zoom(1.25)}>
            <Plus size={16} />
          </SignButton>
          <SignButton label="Fit" onClick={sheet.fit}>
            <Maximize size={15} />
          </SignButton>
          <FillMiddle name="flat" />
        </div>
      ) : null}
    </header>
  );
}
