import { SunDim } from "lucide-react";

import { SignButton } from "../../ui/Button";
import { useBench } from "../store";

/** How strongly the picture shows beneath the outlines; a faint one can be made darker to the eye. */
export function UnderlayLook() {
  const strength = useBench((s) => s.underlay);
  const darker = useBench((s) => s.darker);
  const { setUnderlay, setDarker } = useBench.getState();
  return (
    <>
      <label className="text-soft hidden items-center gap-1.5 pr-1 pl-2 text-xs @xs:flex">
        underlay
        <input
          type="range"
          min={0}
          max={1}
          step={0.05}
          value={strength}
          onChange={(event) => setUnderlay(Number(event.target.value))}
          className="accent-act w-20"
        />
      </label>
      <SignButton
        label="More contrast for a faint picture"
        pressed={darker}
        onClick={() => setDarker(!darker)}
      >
        <SunDim size={16} />
      </SignButton>
    </>
  );
}
