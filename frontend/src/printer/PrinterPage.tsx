import { Link } from "react-router";

import { Page } from "../pieces/Page";
import { History } from "./History";
import { Picture } from "./Picture";
import { PrinterPanel } from "./PrinterPanel";
import { isOpen, usePrinter, usePrints } from "./usePrinter";

/** The stand-in printer: what is on its bed, and what was printed before. */
export default function PrinterPage() {
  const { device } = usePrinter();
  const prints = usePrints();
  const print = device?.print;
  const status = device?.status;
  return (
    <Page title="Printer">
      <div className="mx-auto grid h-full max-w-5xl grid-cols-[1fr_360px] gap-8">
        <div className="bg-sheet border-rule flex min-h-0 items-center justify-center overflow-hidden rounded-lg border">
          {print && status ? (
            <Picture print={print} layer={Math.max(1, status.layer)} />
          ) : (
            <p className="text-soft max-w-xs p-6 text-center">
              Nothing is on the bed. Open a piece at Prove, or a bed plan, and print it.
            </p>
          )}
        </div>
        <div className="min-h-0 overflow-y-auto pr-1">
          <PrinterPanel />
          {print?.piece && (
            <p className="mt-2">
              <Link to={`/bench/${print.piece}`} className="text-act hover:underline">
                Open the piece
              </Link>
            </p>
          )}
          <h2 className="mt-8 mb-2 text-lg">History</h2>
          {prints?.length === 0 && <p className="text-soft">Nothing was printed yet.</p>}
          {prints && prints.length > 0 && <History prints={prints} titled />}
          {!isOpen(status) && (
            <p className="text-soft mt-6 text-[12.5px]">
              This is a stand-in: it plays a print in time, so that you can go through it without a machine.
              docs/printer.md tells how a real one could take its place.
            </p>
          )}
        </div>
      </div>
    </Page>
  );
}
