import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { api, data } from "../api/client";
import { draw, fittedTo, type Shown } from "../bench/prove/drawing";
import { usePatterns } from "../bench/prove/useRehearsal";
import type { Print } from "./usePrinter";

type Props = { print: Print; layer: number };

/** What stands on the bed so far: the layer that is being printed, over what lies below. */
export function Picture({ print, layer }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const kept = useQuery({
    queryKey: ["kept-rehearsal", print.rehearsal],
    queryFn: ({ signal }) =>
      data(api.GET("/api/rehearsals/{key}", { params: { path: { key: print.rehearsal } }, signal })),
    staleTime: Infinity,
    retry: false,
  });
  const shelf = useQuery({
    queryKey: ["printers"],
    queryFn: ({ signal }) => data(api.GET("/api/printers", { signal })),
  });
  const report = kept.data;
  const at = Math.max(0, layer - 1);
  const known = report && { key: print.rehearsal, report };
  const patterns = usePatterns(known, at, 0);
  const under = usePatterns(known, at - 1, 0);
  const [shown, setShown] = useState<Shown>(null);
  const key = `${print.rehearsal} ${at}`;
  if (report && patterns.every(Boolean) && shown?.key !== key) setShown({ key, layer: at, patterns });

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [report]);
  useEffect(() => {
    const element = canvas.current;
    const printer = shelf.data?.printers.find((one) => one.id === report?.printer) ?? shelf.data?.printers[0];
    const pen = element?.getContext("2d");
    if (!element || !pen || !report || !printer || !size.width) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    pen.scale(ratio, ratio);
    const drawn = { report, printer };
    const how = { colours: "filament", bed: 0, trouble: null, under } as const;
    draw(pen, drawn, fittedTo(drawn, 0, size), shown, how);
  });

  if (kept.isError) return <p className="text-soft">The picture of this print has been cleared away.</p>;
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`What stands on the bed: layer ${layer} of ${print.layers}`}
      className="size-full"
    />
  );
}
