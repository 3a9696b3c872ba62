import { CircleAlert, CircleCheck } from "lucide-react";

import { trimmed } from "../../../ui/length";
import { useTrace } from "./settings";

/** What the check of the trace found: how true it is to its picture, and whether anything crosses. */
export function Truth() {
  const { trace } = useTrace();
  const check = trace?.check;
  if (!check) return null;
  const clean = check.crossings === 0;
  const Sign = clean ? CircleCheck : CircleAlert;
  return (
    <p
      aria-label="Check of the trace"
      role="note"
      className="text-soft flex items-start gap-1.5 pt-1.5 text-xs"
    >
      <Sign
        size={15}
        aria-hidden
        className={clean ? "text-act mt-px shrink-0" : "text-remark mt-px shrink-0"}
      />
      <span>
        True to the picture within {trimmed(check.furthest, 1)} px everywhere, {trimmed(check.mean, 2)} px on
        average.{" "}
        {clean
          ? "No outline crosses another."
          : `Outlines still cross in ${check.crossings} place${check.crossings === 1 ? "" : "s"}.`}
        {check.again > 0 &&
          ` ${check.again} outline${check.again === 1 ? " was" : "s were"} drawn again more plainly to get there.`}
      </span>
    </p>
  );
}
