import { Maximize, Minus, Plus } from "lucide-react";

import { SignButton } from "../../ui/Button";

/** The buttons of a sheet that is only looked at. */
export function StillControls({
  zoom,
  fit,
  place = "absolute right-3 bottom-3",
}: {
  zoom: (factor: number) => void;
  fit: () => void;
  place?: string;
}) {
  return (
    <span className={`bg-sheet/85 flex rounded-md ${place}`}>
      <SignButton label="Zoom out" onClick={() => zoom(1 / 1.25)}>
        <Minus size={15} />
      </SignButton>
      <SignButton label="Zoom in" onClick={() => zoom(1.25)}>
        <Plus size={15} />
      </SignButton>
      <SignButton label="Fit" onClick={fit}>
        <Maximize size={15} />
      </SignButton>
    </span>
  );
}
