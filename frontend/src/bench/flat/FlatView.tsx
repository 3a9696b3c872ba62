import { useEffect, useMemo, useRef, useState, type PointerEvent } from "react";

import { hasBegun } from "../begun";
import { useKeys } from "../keys/useKeys";
import { useDocument, usePicture, useShown, useUnits } from "../select";
import { ShapeLayer } from "../shape/ShapeLayer";
import { figuresOf, told } from "../stops/trace/figures";
import { useBench } from "../store";
import { useAttempt } from "../useLookOver";
import { AreaMarks, AreaTools } from "./AreaTools";
import { CareTools } from "./CareTools";
import { pickColour } from "./colourPick";
import { DrawnLines } from "./DrawnLines";
import { EmptySheet } from "./EmptySheet";
import { FlatHeader } from "./FlatHeader";
import { regionsAt } from "./hits";
import { PenLines, PenTail } from "./PenMarks";
import { fromScreen } from "./place";
import { PlaceTool } from "./PlaceTool";
import { Rulers } from "./Rulers";
import { Sheet } from "./Sheet";
import { sheetBox } from "./sheetBox";
import { SpotMark } from "./SpotMark";
import { ToolHint } from "./ToolHint";
import { TroubleMarks } from "./TroubleMarks";
import { usePen } from "./usePen";
import { useSheetView } from "./useSheetView";
import type { Viewport } from "./viewport";
import { Wipe } from "./Wipe";

/** A press that moves less than this (px) is a click. */
const CLICK = 4;

export function FlatView({ inset = false }: { inset?: boolean }) {
  const shown = useShown();
  const document = useDocument();
  const units = useUnits();
  const tool = useBench((s) => s.tool);
  const stop = useBench((s) => s.stop);
  // What is left out is seen where it can be thought better of; elsewhere it would be a ghost.
  const flat = useMemo(
    () =>
      !shown || stop === "Trace" ? shown : { ...shown, regions: shown.regions.filter((r) => !r.left_out) },
    [shown, stop],
  );
  const comparedId = useBench((s) => s.compared);
  const compared = useAttempt(comparedId);
  const attemptName = usePicture()?.attempts.find((a) => a.id === comparedId)?.name;
  const { pick, setHover, setPointer } = useBench.getState();
  const [nodes, setNodes] = useState(false);
  const [filled, setFilled] = useState(false);
  const press = useRef<{ x: number; y: number; view: Viewport; moved: boolean } | null>(null);

  const box = sheetBox(
    flat,
    stop === "Shape",
    stop === "Gather" || (stop === "Trace" && Boolean(flat?.areas.length)),
  );
  const sheet = useSheetView(box, inset);
  const { frame, size, view, point, put } = sheet;
  const pen = usePen(flat, 1 / view.scale);
  useKeys("stop", { fit: sheet.fit, zoom: ({ key }) => sheet.zoom(key === "-" ? 1 / 1.25 : 1.25) });

  const place = (event: PointerEvent) => {
    const at = frame.current?.getBoundingClientRect();
    return { x: event.clientX - (at?.left ?? 0), y: event.clientY - (at?.top ?? 0) };
  };
  useEffect(() => {
    // The pen's keys must not press the button that took it up.
    if (tool) frame.current?.focus();
  }, [tool, frame]);
  const regionAt = ({ x, y }: { x: number; y: number }): string | null =>
    (flat && regionsAt(flat, [(x - view.x) / view.scale, (y - view.y) / view.scale])[0]) ?? null;
  const down = (event: PointerEvent) => {
    if (event.button > 1) return;
    // In Shape the sheet is moved with the middle button, or any with Space held.
    frame.current?.focus();
    event.currentTarget.setPointerCapture(event.pointerId);
    press.current = { ...place(event), view, moved: false };
  };
  const move = (event: PointerEvent) => {
    const at = place(event);
    const [x, y] = fromScreen([at.x, at.y], view);
    point([x, y]);
    setPointer({ x, y });
    const from = press.current;
    if (!from) {
      if (pen.on && flat) pen.move(fromScreen([at.x, at.y], view), event.shiftKey);
      else setHover(regionAt(at));
      return;
    }
    const dx = at.x - from.x;
    const dy = at.y - from.y;
    if (Math.hypot(dx, dy) > CLICK) from.moved = true;
    if (from.moved) put({ ...from.view, x: from.view.x + dx, y: from.view.y + dy });
  };
  const up = (event: PointerEvent) => {
    const from = press.current;
    press.current = null;
    if (!from || from.moved || event.button !== 0) return;
    const at = place(event);
    if (pen.on && flat) pen.click(fromScreen([at.x, at.y], view), event.shiftKey);
    else if (tool === "colour" && flat) void pickColour(fromScreen([at.x, at.y], view));
    else pick(regionAt(at), event.shiftKey || event.ctrlKey || event.metaKey);
  };

  const onSheet = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return (
    <section aria-label="Flat view" className="@container relative h-full">
      <div
        ref={frame}
        tabIndex={-1}
        className="bg-sheet absolute inset-0 touch-none overflow-hidden outline-none"
      >
        <div
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerCancel={() => (press.current = null)}
          onPointerLeave={() => {
            setHover(null);
            setPointer(null);
          }}
          className="absolute inset-0 cursor-crosshair"
        >
          <Sheet
            flat={flat}
            view={view}
            width={size.width}
            height={size.height}
            nodes={nodes}
            filled={filled}
          />
          <svg
            role="img"
            aria-label={
              flat?.regions.length ? `${flat.regions.length} regions in the flat view` : "Empty flat view"
            }
            width={size.width}
            height={size.height}
            pointerEvents="none"
            className="absolute inset-0 block"
          >
            <g pointerEvents="auto">
              {flat && stop !== "Gather" && (
                <>
                  {stop === "Trace" && (
                    <g transform={onSheet}>
                      <AreaMarks flat={flat} />
                    </g>
                  )}
                  {stop === "Trace" && <SpotMark view={view} />}
                  {(stop === "Raise" || stop === "Prove") && <TroubleMarks view={view} />}
                  <PenLines flat={flat} view={view} />
                  <DrawnLines flat={flat} view={view} />
                  {pen.on && <PenTail view={view} start={pen.start} tail={pen.tail} />}
                </>
              )}
              {flat && stop === "Shape" && <ShapeLayer flat={flat} view={view} />}
              {flat && stop === "Trace" && <AreaTools key={tool} view={view} />}
              {flat && stop === "Gather" && <CareTools key={tool} flat={flat} view={view} />}
              {flat && stop === "Gather" && tool === "place" && <PlaceTool flat={flat} view={view} />}
              {!inset && <Rulers view={view} width={size.width} height={size.height} units={units} />}
            </g>
          </svg>
        </div>
        {!hasBegun(document) && stop !== "Shape" && <EmptySheet />}
      </div>
      {!inset && <ToolHint />}
      {stop === "Trace" && !inset && (
        <Wipe
          left={compared ? `${attemptName ?? "attempt"}: ${told(figuresOf(compared))}` : "picture"}
          right={compared && shown ? `now: ${told(figuresOf(shown))}` : "now"}
        />
      )}
      {!inset && (
        <FlatHeader
          flat={flat}
          sheet={sheet}
          filled={filled}
          setFilled={setFilled}
          nodes={nodes}
          setNodes={setNodes}
        />
      )}
    </section>
  );
}
