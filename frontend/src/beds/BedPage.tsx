import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { api, data } from "../api/client";
import { recalled } from "../bench/remembered";
import { lengths } from "../bench/stops/parts";
import { Page } from "../pieces/Page";
import { Choice } from "../ui/fields";
import type { Units } from "../ui/length";
import { BedFigures } from "./BedFigures";
import { BedView } from "./BedView";
import { PickedCopy } from "./PickedCopy";
import { PlanSettings } from "./PlanSettings";
import { usePlan, withPlace } from "./usePlan";

/** One bed plan: which pieces, on which printer, where each copy lies, and what each bed comes to. */
export default function BedPage() {
  const { planId = "" } = useParams();
  const { data: laid, plan, change, error, isPending, isBusy } = usePlan(planId);
  const [looked, setLooked] = useState(0);
  const [picked, setPicked] = useState<number | null>(null);
  const printers = useQuery({
    queryKey: ["printers"],
    queryFn: ({ signal }) => data(api.GET("/api/printers", { signal })),
  });
  const notation = lengths(recalled<Units>("units", "mm"));
  const beds = 1 + Math.max(0, ...(plan?.places.map((place) => place.bed) ?? [0]));
  const bed = Math.min(looked, beds - 1);
  const wrong = laid?.amiss.filter((one, i) => one && plan?.places[i]?.bed === bed).length ?? 0;
  return (
    <Page title={plan?.name ?? "Bed"} back={{ to: "/beds", name: "All beds" }}>
      {error && (
        <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-4 py-2">
          {error.message}
        </p>
      )}
      {isPending && (
        <p role="status" className="text-soft">
          Working out what each piece covers …
        </p>
      )}
      {laid && plan && (
        <div className="grid h-full min-h-0 grid-cols-[250px_1fr_270px] gap-6">
          <div className="min-h-0 overflow-y-auto pr-1">
            <PlanSettings
              laid={laid}
              plan={plan}
              printers={printers.data?.printers ?? []}
              notation={notation}
              change={change}
            />
          </div>
          <section aria-label="The bed" className="flex min-h-0 min-w-0 flex-col">
            <div className="mb-2 flex h-8 items-center gap-3">
              {beds > 1 ? (
                <Choice
                  label="Bed"
                  value={String(bed)}
                  options={Array.from({ length: beds }, (_, i) => ({
                    value: String(i),
                    name: `bed ${i + 1}`,
                  }))}
                  onChange={(next) => {
                    setLooked(Number(next));
                    setPicked(null);
                  }}
                />
              ) : (
                <span className="text-soft">One bed is enough.</span>
              )}
              <span role="status" className="text-soft ml-auto text-[12.5px]">
                {isBusy ? "packing …" : wrong ? "" : "everything fits"}
              </span>
              {wrong > 0 && !isBusy && (
                <span className="text-error text-[12.5px]">
                  {wrong === 1 ? "1 copy does not fit" : `${wrong} copies do not fit`}
                </span>
              )}
            </div>
            <div className="min-h-0 grow">
              <BedView
                laid={laid}
                plan={plan}
                bed={bed}
                picked={picked}
                onPick={setPicked}
                onPlace={(at, to) => change(withPlace(at, to))}
              />
            </div>
            <p className="text-soft mt-2 text-[12.5px]">
              Drag a copy, or pick it and use the arrow keys (Shift for 10 mm), R to turn it, P to pin it or
              let it go.
            </p>
          </section>
          <div className="min-h-0 overflow-y-auto pr-1">
            {picked !== null && plan.places[picked] && (
              <PickedCopy
                laid={laid}
                plan={plan}
                at={picked}
                beds={beds}
                notation={notation}
                onChange={(to) => {
                  change(withPlace(picked, to));
                  if (to.bed !== undefined) setLooked(to.bed);
                }}
              />
            )}
            <BedFigures
              plan={planId}
              version={laid.version}
              bed={bed}
              beds={beds}
              wrong={wrong}
              notation={notation}
            />
          </div>
        </div>
      )}
    </Page>
  );
}
