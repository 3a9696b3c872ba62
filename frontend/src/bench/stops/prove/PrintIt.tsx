import { Printer } from "lucide-react";
import { Link } from "react-router";

import { History } from "../../../printer/History";
import { PrinterPanel } from "../../../printer/PrinterPanel";
import { isOpen, usePrinter, usePrints } from "../../../printer/usePrinter";
import { Button } from "../../../ui/Button";
import { useProve } from "../../prove/state";
import { useRehearsal } from "../../prove/useRehearsal";
import { useBench } from "../../store";
import { Fold } from "../parts";

/** The piece on the stand-in printer, and when it was printed before. */
export function PrintIt() {
  const piece = useBench((s) => s.piece);
  const { data: rehearsed } = useRehearsal();
  const { device, print } = usePrinter();
  const prints = usePrints(piece?.id);
  const looked = useProve((s) => s.bed);
  if (!piece) return null;
  const open = isOpen(device?.status);
  const mine = device?.print?.piece === piece.id;
  const bed = Math.min(looked, (rehearsed?.report.beds.length ?? 1) - 1);
  return (
    <Fold name="Print it" side={prints?.length ? String(prints.length) : undefined} open={mine}>
      {open && mine ? (
        <PrinterPanel />
      ) : (
        <>
          <Button
            kind="act"
            className="w-full"
            disabled={open || print.isPending || !rehearsed || !device?.status}
            onClick={() => print.mutate({ piece: piece.id, revision: piece.revision, bed })}
          >
            <Printer size={15} aria-hidden /> {print.isPending ? "Sending …" : "Print on the stand-in"}
          </Button>
          {open && (
            <p className="text-soft mt-1 text-[12.5px]">
              The printer is busy with {device?.status?.title}.{" "}
              <Link to="/printer" className="text-act hover:underline">
                Look at it
              </Link>
            </p>
          )}
          {device && !device.status && (
            <p className="text-soft mt-1 text-[12.5px]">The printer does not answer just now.</p>
          )}
        </>
      )}
      {prints && prints.length > 0 && (
        <div className="mt-3">
          <History prints={prints} />
        </div>
      )}
    </Fold>
  );
}
