import { WipeHandle } from "../../ui/WipeHandle";
import { useBench } from "../store";

/** Over the sheet: to the left the picture or an attempt, to the right the outlines now. */
export function Wipe({ left, right }: { left: string; right: string }) {
  const wipe = useBench((s) => s.wipe);
  if (wipe === null) return null;
  return <WipeHandle at={wipe} onChange={useBench.getState().setWipe} left={left} right={right} />;
}
