import { ExportPanel } from "../ExportPanel";
import { Changes } from "./prove/Changes";
import { HowPrinted } from "./prove/HowPrinted";
import { ManyNames } from "./prove/ManyNames";
import { PrintIt } from "./prove/PrintIt";
import { PrintFigures } from "./prove/PrintFigures";
import { Troubles } from "./Troubles";

/** The print before it is printed: what it comes to, what will not print, when to change filament; and the file. */
export function ProveStop() {
  return (
    <>
      <PrintFigures />
      <Troubles />
      <Changes />
      <HowPrinted />
      <PrintIt />
      <ExportPanel />
      <div className="mt-6">
        <ManyNames />
      </div>
    </>
  );
}
