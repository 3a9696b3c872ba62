import type { UseQueryResult } from "@tanstack/react-query";
import { Columns2 } from "lucide-react";
import { lazy, Suspense, useState } from "react";

import { patiently } from "../api/loading";
import { api, type Bench } from "../api/client";
import { StillControls } from "../bench/flat/StillControls";
import { boxOf, StillDrawing } from "../bench/flat/StillDrawing";
import { useStill } from "../bench/flat/useStill";
import { around } from "../bench/flat/viewport";
import { SignButton } from "../ui/Button";
import { Choice } from "../ui/fields";
import { WipeHandle } from "../ui/WipeHandle";
import type { Version } from "./useVersions";

const StillSolid = lazy(patiently(() => import("../bench/solid/StillSolid")));

type Props = {
  piece: Bench;
  version: UseQueryResult<Version>;
  revision: number;
  isNow: boolean;
};

/** A version as it was, flat or solid; in the flat view it can be wiped against what stands now. */
export function VersionView({ piece, version, revision, isNow }: Props) {
  const [view, setView] = useState<"flat" | "solid">("flat");
  const [wipe, setWipe] = useState<number | null>(null);
  const then = version.data;
  return (
    <section aria-label="Version" className="bg-sheet relative min-h-0 min-w-0 overflow-hidden">
      {then && view === "flat" && (
        <FlatStill then={then} now={piece} wipe={isNow ? null : wipe} onWipe={setWipe} />
      )}
      {view === "solid" && (
        <Suspense fallback={<Waiting words="Opening the solid view …" />}>
          <StillSolid
            name="The solid of this version"
            of={["version", piece.piece.id, revision]}
            fetched={(signal) =>
              api.GET("/api/pieces/{piece_id}/solid/{revision}", {
                params: { path: { piece_id: piece.piece.id, revision } },
                signal,
                parseAs: "arrayBuffer",
              })
            }
          />
        </Suspense>
      )}
      <header className="pointer-events-none absolute inset-x-0 top-0 flex items-start justify-between p-3">
        <div className="pointer-events-auto w-40">
          <Choice
            label="View"
            value={view}
            options={[
              { value: "flat", name: "Flat" },
              { value: "solid", name: "Solid" },
            ]}
            onChange={setView}
          />
        </div>
        {view === "flat" && !isNow && (
          <span className="bg-sheet/85 pointer-events-auto rounded-md">
            <SignButton
              label="Wipe between then and now"
              pressed={wipe !== null}
              onClick={() => setWipe(wipe === null ? 0.5 : null)}
            >
              <Columns2 size={16} />
            </SignButton>
          </span>
        )}
      </header>
      {version.isPlaceholderData && <Waiting words="Fetching the version …" />}
      {version.error && (
        <p
          role="alert"
          className="border-error bg-error-wash absolute inset-x-6 top-1/3 rounded-r-md border-l-4 px-4 py-2"
        >
          {version.error.message}
        </p>
      )}
    </section>
  );
}

function Waiting({ words }: { words: string }) {
  return (
    <p
      role="status"
      className="bg-ink text-paper absolute bottom-3 left-1/2 -translate-x-1/2 rounded-full px-4 py-1.5"
    >
      {words}
    </p>
  );
}

function FlatStill({
  then,
  now,
  wipe,
  onWipe,
}: {
  then: Version;
  now: Bench;
  wipe: number | null;
  onWipe: (at: number) => void;
}) {
  const box = boxOf(then.flat) ?? boxOf(now.flat) ?? { x: 0, y: 0, width: 80, height: 60 };
  const whole = wipe === null ? box : around(box, boxOf(now.flat) ?? box);
  const { frame, size, transform, zoom, fit, handlers } = useStill(whole);
  const at = (wipe ?? 1) * size.width;
  return (
    <>
      <div
        ref={frame}
        className="absolute inset-0 cursor-grab touch-none active:cursor-grabbing"
        {...handlers}
      >
        <svg
          role="img"
          aria-label={`${then.flat.regions.filter((r) => !r.left_out).length} regions in this version`}
          width={size.width}
          height={size.height}
          className="absolute inset-0 block"
        >
          <clipPath id="then">
            <rect width={at} height={size.height} />
          </clipPath>
          <clipPath id="now">
            <rect x={at} width={Math.max(0, size.width - at)} height={size.height} />
          </clipPath>
          <g clipPath="url(#then)">
            <g transform={transform}>
              <StillDrawing flat={then.flat} document={then.document} />
            </g>
          </g>
          {wipe !== null && (
            <g clipPath="url(#now)">
              <g transform={transform}>
                <StillDrawing flat={now.flat} document={now.piece.document} />
              </g>
            </g>
          )}
        </svg>
      </div>
      {wipe !== null && <WipeHandle at={wipe} onChange={onWipe} left="then" right="now" />}
      {!boxOf(then.flat) && (
        <p className="text-soft pointer-events-none absolute inset-x-6 top-1/2 text-center">
          The sheet was empty then.
        </p>
      )}
      <StillControls zoom={zoom} fit={fit} />
    </>
  );
}
