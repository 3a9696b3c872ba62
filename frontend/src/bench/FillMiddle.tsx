import { Expand } from "lucide-react";

import { SignButton } from "../ui/Button";
import { arrange, useArrangement } from "./arrangement";

/** Beside another view: makes this one fill the middle. */
export function FillMiddle({ name }: { name: "flat" | "solid" }) {
  const both = useArrangement() === "both";
  if (!both) return null;
  return (
    <SignButton label={`Enlarge the ${name} view`} onClick={() => arrange(name)}>
      <Expand size={14} />
    </SignButton>
  );
}
