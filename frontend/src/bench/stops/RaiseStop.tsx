import { useDocument, useShown } from "../select";
import { useBench } from "../store";
import { hasHeights } from "../support";
import { BasePart } from "./raise/BasePart";
import { FormChooser } from "./raise/FormChooser";
import { FormNumbers } from "./raise/forms/FormNumbers";
import { Heights } from "./raise/Heights";
import { PrintPart } from "./raise/PrintPart";

export function RaiseStop() {
  const document = useDocument();
  const flat = useShown();
  const picked = useBench((s) => s.picked);
  if (!document || !flat) return null;
  const regions = flat.regions.filter((r) => picked.includes(r.id));
  return (
    <>
      <FormChooser />
      {flat.problem && (
        <p
          role="alert"
          data-form-problem={flat.problem.field}
          className="border-error bg-error-wash mb-4 rounded-r-md border-l-4 px-3 py-2"
        >
          {flat.problem.message}
        </p>
      )}
      {hasHeights(document.form) && <Heights regions={regions} />}
      <FormNumbers />
      <BasePart />
      <PrintPart />
    </>
  );
}
