import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { StillControls } from "../flat/StillControls";
import { useMovable } from "../flat/useMovable";
import { useKeys } from "../keys/useKeys";
import { useBench } from "../store";
import { depthOf, draw, fittedTo, onBed, type Shown } from "./drawing";
import { layerOf, useProve } from "./state";
import { usePatterns, useRehearsal, useUnderway } from "./useRehearsal";
import { inTime, troubleWords } from "./words";
import { lengths } from "../stops/parts";
import { useUnits } from "../select";

/** The bed from above with the lines of one layer, at their true widths. */
export function LayerView({ inset = false }: { inset?: boolean }) {
  const { data: whole, error, isPlaceholderData, isPending, isFetching, dataUpdatedAt } = useRehearsal();
  const isWaiting = (isPending || isPlaceholderData) && isFetching;
  const { share, first } = useUnderway(isWaiting && !inset);
  // The first layers are seen while the others are on their way.
  const rehearsed = whole ?? first;
  const empty = useBench((s) => !s.flat?.base_path && !s.flat?.regions.some((r) => !r.left_out));
  const chosen = useProve((s) => s.layer);
  const colours = useProve((s) => s.colours);
  const bed = useProve((s) => s.bed);
  const trouble = useProve((s) => s.trouble);
  const count = rehearsed?.report.layers.length ?? 0;
  const layer = layerOf(chosen, count);
  const patterns = usePatterns(rehearsed, layer, dataUpdatedAt);
  const under = usePatterns(rehearsed, layer - 1, dataUpdatedAt);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { frame, size, view, latest, zoom, fit, put, handlers } = useMovable(
    (size) => (rehearsed ? fittedTo(rehearsed, bed, size) : { scale: 1, x: 0, y: 0 }),
    inset,
  );

  // Lines stay until those of the next layer are there.
  const [shown, setShown] = useState<Shown>(null);
  const isThere = count > 0 && patterns.every(Boolean);
  const key = `${rehearsed?.key} ${layer}`;
  if (isThere && shown?.key !== key) setShown({ key, layer, patterns });
  useEffect(() => {
    const element = canvas.current;
    if (!element || !rehearsed || !size.width) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    const pen = element.getContext("2d");
    if (!pen) return;
    pen.scale(ratio, ratio);
    draw(pen, rehearsed, view, shown, { colours, bed, trouble, under });
  });

  useKeys("stop", { fit, zoom: ({ key }) => zoom(key === "-" ? 1 / 1.25 : 1.25) }, !inset);
  useEffect(() => {
    const spot = rehearsed?.report.troubles[trouble ?? -1];
    const place = rehearsed?.report.beds[bed]?.places[0];
    const element = frame.current;
    if (!rehearsed || !spot || !place || !element) return;
    const [x, y] = onBed(spot.at, rehearsed, place);
    const scale = Math.max(latest.current.scale, 24);
    put({
      scale,
      x: element.clientWidth / 2 - x * scale,
      y: element.clientHeight / 2 - (depthOf(rehearsed) - y) * scale,
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [trouble]);

  const units = useUnits();
  const spot = trouble === null ? undefined : rehearsed?.report.troubles[trouble];
  const mm = (value: number) => `${lengths(units).format(value)} ${lengths(units).unit}`;
  return (
    <section aria-label="Layer view" className="relative h-full" style={{ background: "var(--sheet)" }}>
      <div
        ref={frame}
        className={`absolute inset-0 touch-none ${inset ? "" : "cursor-grab active:cursor-grabbing"}`}
        {...handlers}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={
            rehearsed
              ? `Layer ${layer + 1} of ${count}, ${rehearsed.report.layers[layer]?.top.toFixed(2)} mm, ${rehearsed.printer.name}`
              : "No layer yet"
          }
          data-layer={shown?.layer}
          className={`size-full ${isPlaceholderData ? "opacity-60" : ""}`}
        />
      </div>
      {!inset && (
        <header className="pointer-events-none absolute inset-x-0 top-0 flex items-start justify-between p-2.5">
          <div className="bg-paper/85 flex items-baseline gap-2 rounded-md px-1.5">
            <h2 className="text-[15px]">Bed</h2>
            {rehearsed && (
              <p className="text-soft text-[12.5px] tabular-nums">
                layer {layer + 1}
                {whole && ` of ${count}`} · {rehearsed.report.layers[layer]?.top.toFixed(2)} mm ·{" "}
                {inTime(rehearsed.report.layers[layer]?.seconds ?? 0)}
              </p>
            )}
          </div>
          <StillControls zoom={zoom} fit={fit} place="pointer-events-auto" />
        </header>
      )}
      {!inset && spot && (
        <p
          role="status"
          className="bg-remark-wash border-remark absolute bottom-3 left-3 max-w-[80%] rounded-r-md border-l-4 px-3 py-1.5"
        >
          <b>{troubleWords(spot, mm).name}</b>, layer {spot.first}
          {spot.last > spot.first ? ` to ${spot.last}` : ""}. {troubleWords(spot, mm).why}
        </p>
      )}
      {!inset && (isPending || isPlaceholderData) && !empty && (
        <Waiting key={String(isFetching)} isFetching={isFetching} share={share} />
      )}
      {empty && !inset && (
        <p className="text-soft absolute inset-x-6 top-1/2 text-center">
          The print appears here as soon as there is an outline.
        </p>
      )}
      {error && !empty && (
        <p
          role="alert"
          className="bg-error-wash border-error absolute inset-x-6 top-1/3 rounded-r-md border-l-4 px-4 py-2"
        >
          {error.message}
        </p>
      )}
    </section>
  );
}

/** So long (s) a rehearsal goes on before it can be stopped. */
const LONG = 2;

/** What is said while a print is rehearsed: how far it is, else for how long by now, with a way to stop it. */
function Waiting({ isFetching, share }: { isFetching: boolean; share: number | null }) {
  const queries = useQueryClient();
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    if (!isFetching) return;
    const counting = setInterval(() => setSeconds((before) => before + 1), 1000);
    return () => clearInterval(counting);
  }, [isFetching]);
  const key = { queryKey: ["rehearsal"] };
  return (
    <div className="bg-ink text-paper absolute bottom-3 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded-full px-4 py-1.5 whitespace-nowrap">
      <span role="status">{isFetching ? "Rehearsing the print …" : "The rehearsal was stopped."}</span>
      {isFetching && seconds >= LONG && (
        <>
          <span className="tabular-nums">
            {share === null ? `${seconds} s` : `${Math.round(100 * share)} %`}
          </span>
          <button type="button" className="underline" onClick={() => void queries.cancelQueries(key)}>
            Stop
          </button>
        </>
      )}
      {!isFetching && (
        <button type="button" className="underline" onClick={() => void queries.refetchQueries(key)}>
          Rehearse it
        </button>
      )}
    </div>
  );
}
