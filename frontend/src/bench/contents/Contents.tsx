import { useMemo, useState } from "react";

import { formatLength, unitName } from "../../ui/length";
import { useArrangement } from "../arrangement";
import { hasBegun } from "../begun";
import { colourOf, useDocument, useShown, useUnits } from "../select";
import { useBench } from "../store";
import { BaseRow } from "./BaseRow";
import { Drawn } from "./Drawn";
import { groups } from "./groups";
import { Heading } from "./Heading";
import { LeftOut } from "./LeftOut";
import { PictureRow } from "./PictureRow";
import { RegionRow } from "./RegionRow";
import { Rows, Scroller } from "./Rows";

/** What belongs to the piece: source, regions, base. */
export function Contents() {
  const piece = useBench((s) => s.piece);
  const flat = useShown();
  const document = useDocument();
  const stop = useBench((s) => s.stop);
  const units = useUnits();
  const chosen = useBench((s) => s.picked);
  const picked = useMemo(() => new Set(chosen), [chosen]);
  const [scroller, setScroller] = useState<HTMLElement | null>(null);
  const arrangement = useArrangement();
  if (!piece || !document) return null;
  const begun = hasBegun(document);
  const mm = (value: number) => `${formatLength(value, units)} ${unitName(units)}`;
  return (
    <Scroller value={scroller}>
      <aside
        ref={setScroller}
        aria-label="Contents"
        className={`border-rule flex min-h-0 flex-col overflow-y-auto border-r px-3 py-3 ${arrangement === "both" ? "" : "mb-44"}`}
      >
        <Heading name="Pictures" count={document.pictures.length} />
        {document.pictures.length ? (
          <ul className="-mx-0.5">
            {[...document.pictures].reverse().map((picture) => (
              <PictureRow key={picture.id} picture={picture} only={document.pictures.length === 1} />
            ))}
          </ul>
        ) : (
          <p className="text-soft px-1.5 py-1">No picture yet.</p>
        )}
        {stop === "Shape" && <Drawn document={document} />}
        {groups(flat, document, stop === "Shape").map(({ name, regions }) => (
          <div key={name} role="group" aria-label={name} className="mt-3">
            <Heading name={name} count={regions.length} />
            <Rows items={regions} isAt={(region) => picked.has(region.id)}>
              {(region) => <RegionRow region={region} colour={colourOf(document, region.filament)} mm={mm} />}
            </Rows>
          </div>
        ))}
        <LeftOut regions={(flat?.regions ?? []).filter((r) => r.left_out)} document={document} mm={mm} />
        {begun && (
          <>
            <Heading name="Base" count={null} />
            <BaseRow document={document} mm={mm} />
          </>
        )}
      </aside>
    </Scroller>
  );
}
