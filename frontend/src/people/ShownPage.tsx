import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";

import { patiently } from "../api/loading";
import { api, data, type Schemas } from "../api/client";
import { StillControls } from "../bench/flat/StillControls";
import { useStill } from "../bench/flat/useStill";
import { Choice } from "../ui/fields";
import { Mark } from "../ui/Mark";

const StillSolid = lazy(patiently(() => import("../bench/solid/StillSolid")));

type Shown = Schemas["ShownOut"];

/** A piece as whoever has its link sees it: to look at and to turn, no more. */
export default function ShownPage({ token }: { token: string }) {
  const [view, setView] = useState<"flat" | "solid">("flat");
  const shown = useQuery({
    queryKey: ["shown", token],
    queryFn: ({ signal }) => data(api.GET("/api/shown/{token}", { params: { path: { token } }, signal })),
    retry: false,
  });
  const title = shown.data?.title;
  useEffect(() => {
    if (title) document.title = `${title} – Drelo`;
  }, [title]);
  return (
    <main className="grid h-full grid-rows-[56px_1fr]">
      <header className="border-rule flex items-center gap-6 border-b px-6">
        <Mark />
        <h1 className="min-w-0 grow truncate text-xl">{title}</h1>
        {shown.data && (
          <div className="w-40">
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
        )}
      </header>
      <section aria-label="Piece" className="bg-sheet relative min-h-0 overflow-hidden">
        {shown.isPending && <Middle words="Fetching the piece …" />}
        {shown.error && (
          <Middle
            alert
            words="This link does not show a piece any more. Ask whoever sent it for a new one."
          />
        )}
        {shown.data && view === "flat" && <FlatShown shown={shown.data} />}
        {shown.data && view === "solid" && (
          <Suspense fallback={<Middle words="Opening the solid view …" />}>
            <StillSolid
              name={`The solid of ${shown.data.title}`}
              of={["shown", token, shown.data.revision]}
              fetched={(signal) =>
                api.GET("/api/shown/{token}/solid/{revision}", {
                  params: { path: { token, revision: shown.data.revision } },
                  signal,
                  parseAs: "arrayBuffer",
                })
              }
            />
          </Suspense>
        )}
      </section>
    </main>
  );
}

function Middle({ words, alert = false }: { words: string; alert?: boolean }) {
  return (
    <p
      role={alert ? "alert" : "status"}
      className="text-soft grid h-full place-items-center px-8 text-center"
    >
      {words}
    </p>
  );
}

function FlatShown({ shown }: { shown: Shown }) {
  const [x, y, width, height] = shown.box ?? [0, 0, 80, 60];
  const { frame, size, transform, zoom, fit, handlers } = useStill({ x, y, width, height });
  const line = { stroke: "var(--ink)", strokeWidth: 1.2, vectorEffect: "non-scaling-stroke" } as const;
  const shapes = [...(shown.base ? [shown.base] : []), ...shown.regions];
  return (
    <>
      <div
        ref={frame}
        className="absolute inset-0 cursor-grab touch-none active:cursor-grabbing"
        {...handlers}
      >
        <svg
          role="img"
          aria-label={`${shown.title}, ${shown.regions.length} regions`}
          width={size.width}
          height={size.height}
          className="absolute inset-0 block"
        >
          <g transform={transform} fillRule="evenodd" strokeLinejoin="round">
            {shapes.map(({ path, colour }, at) => (
              <path key={at} d={path} fill={colour} {...line} />
            ))}
          </g>
        </svg>
      </div>
      {!shown.box && <Middle words="There is nothing on its sheet yet." />}
      {shown.box && (
        <p className="text-soft bg-sheet/85 absolute bottom-3 left-3 rounded-md px-2 py-1 text-xs">
          {width.toFixed(1)} × {height.toFixed(1)} mm
        </p>
      )}
      <StillControls zoom={zoom} fit={fit} />
    </>
  );
}
