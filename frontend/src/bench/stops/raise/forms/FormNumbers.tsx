import { useDocument } from "../../../select";
import { useOverlaid } from "../../../overlaid";
import { CutterNumbers } from "./CutterNumbers";
import { NameplateNumbers } from "./NameplateNumbers";
import { ReliefNumbers } from "./ReliefNumbers";
import { StampNumbers } from "./StampNumbers";

/** Numbers with those that the hand would have instead; what it leaves out stays. */
function merged<T extends object>(kept: T, drafted: object | null | undefined): T {
  return { ...kept, ...drafted } as T;
}

/** The numbers of the form that is chosen. */
export function FormNumbers() {
  const document = useDocument();
  const drafted = useOverlaid("set-form");
  if (!document) return null;
  const form = document.form;
  if (form === "relief") return <ReliefNumbers numbers={{ ...document.relief, ...drafted.relief }} />;
  if (form === "stamp") return <StampNumbers numbers={merged(document.stamp, drafted.stamp)} />;
  if (form === "cutter") return <CutterNumbers numbers={{ ...document.cutter, ...drafted.cutter }} />;
  return <NameplateNumbers numbers={merged(document.nameplate, drafted.nameplate)} />;
}
