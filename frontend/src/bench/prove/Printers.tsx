import { useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { useOverlaid } from "../overlaid";
import { useDocument } from "../select";
import { useBench } from "../store";

/** Every printer on the shelf, and the presets of how to print. */
export function usePrinters() {
  return useQuery({
    queryKey: ["printers"],
    queryFn: ({ signal }) => data(api.GET("/api/printers", { signal })),
  }).data;
}

/** The printer that the piece is printed on. */
export function PrinterChoice() {
  const document = useDocument();
  const wanted = useOverlaid("set-printing");
  const printers = usePrinters()?.printers ?? [];
  const { commit } = useBench.getState();
  return (
    <label className="grid grid-cols-[1fr_150px] items-center">
      Printer
      <select
        aria-label="Printer"
        value={wanted.printer ?? document?.printing.printer}
        onChange={(event) => commit({ do: "set-printing", printer: event.target.value })}
        className="border-hair bg-sheet h-8 rounded-md border px-1.5"
      >
        {printers.map((printer) => (
          <option key={printer.id} value={printer.id}>
            {printer.name}
          </option>
        ))}
      </select>
    </label>
  );
}
