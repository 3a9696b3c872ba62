import type { Document, Region } from "../../api/client";
import { colourOf } from "../select";
import { RegionRow } from "./RegionRow";
import { Rows } from "./Rows";

/** What was thrown away or took another's place, folded: each can be taken back. */
export function LeftOut({
  regions,
  document,
  mm,
}: {
  regions: readonly Region[];
  document: Document;
  mm: (value: number) => string;
}) {
  if (!regions.length) return null;
  return (
    <details className="mt-3">
      <summary className="text-soft cursor-pointer px-1.5">Left out ({regions.length})</summary>
      <Rows label="Left out" items={regions}>
        {(region) => <RegionRow region={region} colour={colourOf(document, region.filament)} mm={mm} />}
      </Rows>
    </details>
  );
}
