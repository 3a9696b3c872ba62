import { useEffect, useRef, useState } from "react";

import { api, data, type Flat, type Schemas } from "../../api/client";
import { Latest } from "../../api/latest";
import { freshId } from "../ids";
import { useKeys } from "../keys/useKeys";
import { pictureOf, usePicture } from "../select";
import { useBench } from "../store";
import type { Point } from "./place";
import { stepped } from "../shape/snaps";
import { openLine, usePenState, type Line } from "../pen";

type Clung = Schemas["ClungOut"];
type Wish = { start: Point; end: Point; moving: boolean };

/** With Shift a stretch is straight, in a direction of whole steps of so many degrees. */
const STEP = 15;
/** Clicks nearer to the start than this (px on the screen) close the line. */
const CLOSE = 9;

const clung = (wish: Wish, signal?: AbortSignal): Promise<Clung> => {
  const { piece, picture: chosen } = useBench.getState();
  const picture = pictureOf(piece?.document, chosen);
  if (!piece) throw new Error("No piece is open.");
  return data(
    api.POST("/api/pieces/{piece_id}/cling", {
      params: { path: { piece_id: piece.id } },
      body: {
        revision: piece.revision,
        picture: picture?.id ?? null,
        start: [...wish.start],
        end: [...wish.end],
        snap: true,
        moving: wish.moving,
      },
      signal,
    }),
  );
};

/** The pen over the picture: where it was set, the line it would draw next, and what a click, a move and keys do. */
export function usePen(flat: Flat | null, mmPerScreen: number) {
  const tool = useBench((s) => s.tool);
  const drawing = usePicture()?.pen;
  const pen = usePenState();
  const [tail, setTail] = useState<readonly Point[]>([]);
  const latest = useRef<Latest<Wish, Clung> | null>(null);
  const pointer = useRef<Point | null>(null);
  /** Clicks are taken one after another, each from where the one before ended. */
  const clicks = useRef<Promise<void>>(Promise.resolve());
  useEffect(() => {
    latest.current = new Latest<Wish, Clung>(
      clung,
      (found) => setTail(found.points),
      () => undefined,
    );
    return () => latest.current?.cancel();
  }, []);

  const on = tool === "pen" && flat !== null;
  const shown = openLine(drawing, pen);

  const take = async (clicked: Point, straight: boolean) => {
    const { kind: chosen, start, setStart } = usePenState.getState();
    const line = lineNow();
    const last = line ? lastOf(line) : start;
    const kind = last && straight ? "straight" : chosen;
    const at = last && straight ? stepped(last, clicked, STEP) : clicked;
    const begin = line?.start;
    if (begin && Math.hypot(at[0] - begin[0], at[1] - begin[1]) < CLOSE * mmPerScreen) return close();
    let to: Point = at;
    if (kind === "edge") {
      try {
        to = (await clung({ start: last ?? at, end: at, moving: false })).to;
      } catch {
        // The connection is gone: the click counts where it fell.
      }
    }
    if (!last) return setStart(to);
    put([...(line?.stretches ?? []), { kind, to: [...to] }], false);
  };
  const click = (at: Point, straight: boolean) => {
    clicks.current = clicks.current.then(() => take(at, straight));
  };
  const last = shown ? lastOf(shown) : pen.start;
  const lead = (at: Point | null, straight = false) => {
    if (!last || !at) return;
    if (straight) {
      latest.current?.cancel();
      setTail([last, stepped(last, at, STEP)]);
    } else if (pen.kind === "edge") latest.current?.ask({ start: last, end: at, moving: true });
    else setTail([last, at]);
  };
  const move = (at: Point, straight: boolean) => {
    pointer.current = at;
    lead(at, straight);
  };
  // A click is placed only when the server answers, and the pointer may rest by then: the tail goes on from there all
  // the same.
  const leadAgain = useRef(lead);
  useEffect(() => {
    leadAgain.current = lead;
  });
  const from = last?.join(" ");
  useEffect(() => leadAgain.current(pointer.current), [from, pen.kind]);
  const down = () => {
    latest.current?.cancel();
    setTail([]);
    pointer.current = null;
    pen.setLine(null);
    useBench.getState().setTool(null);
  };
  useKeys(
    "tool",
    {
      "close-line": () => {
        latest.current?.cancel();
        setTail([]);
        clicks.current = clicks.current.then(close);
      },
      "put-down": down,
      "take-back": () => {
        setTail([]);
        if (lineNow()) useBench.getState().undo();
        else pen.setStart(null);
      },
    },
    on,
  );
  return { on, start: shown?.start ?? pen.start, tail: on ? tail : [], click, move };
}

function pictureNow() {
  const { piece, picture } = useBench.getState();
  return pictureOf(piece?.document, picture);
}

function lineNow(): Line | null {
  return openLine(pictureNow()?.pen, usePenState.getState());
}

function lastOf(line: Line): Point {
  return line.stretches.at(-1)?.to ?? line.start;
}

/** The line with its stretches as they are now, sent to the server. */
function put(stretches: Line["stretches"], closed: boolean): void {
  const { start, setPending } = usePenState.getState();
  const { commit } = useBench.getState();
  const picture = pictureNow();
  const before = lineNow();
  const from = before?.start ?? start;
  if (!from) return;
  const line: Line = {
    id: before?.id ?? freshId("p"),
    name: before?.name ?? `Line ${(picture?.pen.length ?? 0) + 1}`,
    start: [from[0], from[1]],
    stretches,
    closed,
  };
  setPending(line);
  commit({ do: "set-pen", picture: picture?.id ?? null, line });
}

function close(): void {
  const line = lineNow();
  if (!line || line.stretches.length < 2) return;
  put([...line.stretches, { kind: usePenState.getState().kind, to: line.start }], true);
}
