import { inGrams, inMetres, inMoney, inTime } from "../../prove/words";
import { useProve } from "../../prove/state";
import { useRehearsal } from "../../prove/useRehearsal";
import { Choice } from "../../../ui/fields";
import { Section } from "../parts";

const COLOURS = [
  { value: "filament", name: "by filament" },
  { value: "kind", name: "by kind" },
] as const;

/** What the print comes to: time, and what of each filament. */
export function PrintFigures() {
  const { data: rehearsed } = useRehearsal();
  const colours = useProve((s) => s.colours);
  const bed = useProve((s) => s.bed);
  const { setColours, setBed } = useProve.getState();
  const report = rehearsed?.report;
  if (!report) return null;
  const beds = report.beds;
  const copies = beds.reduce((sum, one) => sum + one.places.length, 0);
  return (
    <Section name="The print" side={copies > 1 ? `${copies} copies` : undefined}>
      <p className="mb-2 flex items-baseline justify-between">
        <span className="font-head text-2xl tabular-nums">{inTime(report.seconds)}</span>
        <span className="text-soft tabular-nums">
          {inGrams(report.grams)} · {inMetres(report.metres)} · {inMoney(report.price)}
        </span>
      </p>
      <table aria-label="What it uses" className="w-full text-[13px]">
        <thead className="sr-only">
          <tr>
            <th>Filament</th>
            <th>Grams</th>
            <th>Metres</th>
            <th>Price</th>
          </tr>
        </thead>
        <tbody>
          {report.bodies.map((body, i) => (
            <tr key={i} className="border-rule border-t">
              <td className="py-1">
                <span className="flex items-center gap-1.5">
                  <span
                    aria-hidden
                    className="border-hair size-3 rounded-full border"
                    style={{ background: body.colour }}
                  />
                  <span className="truncate">{body.name}</span>
                </span>
              </td>
              <td className="text-right tabular-nums">{inGrams(body.grams)}</td>
              <td className="text-right tabular-nums">{inMetres(body.metres)}</td>
              <td className="w-12 text-right tabular-nums">{inMoney(body.price)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {report.bodies.some((body) => body.enough === false) && (
        <p className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1 text-[13px]">
          {report.bodies
            .filter((body) => body.enough === false)
            .map((body) => body.name)
            .join(", ")}
          : there is not enough on the spool.
        </p>
      )}
      <div className="mt-2">
        <Choice label="Colour lines by" value={colours} options={COLOURS} onChange={setColours} />
      </div>
      {beds.length > 1 && (
        <div className="mt-2 flex items-center justify-between gap-2">
          <span>Bed</span>
          <select
            aria-label="Bed"
            value={Math.min(bed, beds.length - 1)}
            onChange={(event) => setBed(Number(event.target.value))}
            className="border-hair bg-sheet h-8 rounded-md border px-1.5"
          >
            {beds.map((one, i) => (
              <option key={i} value={i}>
                {i + 1} of {beds.length}: {one.places.length === 1 ? "1 copy" : `${one.places.length} copies`}
                , {inTime(one.seconds)}
              </option>
            ))}
          </select>
        </div>
      )}
    </Section>
  );
}
