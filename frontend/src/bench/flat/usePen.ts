import { useEffect, useRef, useState } from "react";

import { api, data, type Document, type Flat, type Schemas } from "../../api/client";
import { Latest } from "../../api/latest";
import { freshId } from "../ids";
import { useBench } from "../store";
import type { Point } from "./place";
import { usePenKind, type PenKind } from "../pen";

type Line = NonNullable<Document["pen"]>[number];
type Clung = Schemas["ClungOut"];
type Wish = { start: Point; end: Point; moving: boolean };

/** Clicks nearer to the start than this (px on the screen) close the line. */
const CLOSE = 9;

const clung = (wish: Wish, signal?: AbortSignal): Promise<Clung> => {
  const piece = useBench.getState().piece;
  if (!piece) throw new Error("No piece is open.");
  return data<Clung>(
    api.POST("/api/pieces/{piece_id}/cling", {
      params: { path: { piece_id: piece.id } },
      body: { revision: piece.revision, start: [...wish.start], end: [...wish.end], snap: true, moving: wish.moving },
      signal,
    }),
  );
};

/** The pen over the picture: where it was set, the line it would draw next, and what a click, a move and keys do. */
export function usePen(flat: Flat | null, pxPerScreen: number) {
  const tool = useBench((s) => s.tool);
  const drawing = useBench((s) => s.piece?.document.pen);
  const { kind, line: id, setLine } = usePenKind();
  const [start, setStart] = useState<Point | null>(null);
  const [tail, setTail] = useState<readonly Point[]>([]);
  const line = drawing?.find((l) => l.id === id && !l.closed) ?? null;
  const last: Point | null = line ? (line.stretches.at(-1)?.to ?? line.start) : start;
  const latest = useRef<Latest<Wish, Clung> | null>(null);
  useEffect(() => {
    latest.current = new Latest<Wish, Clung>(
      clung,
      (found) => setTail(found.points),
      () => undefined,
    );
    return () => latest.current?.cancel();
  }, []);

  const on = tool === "pen" && flat !== null;
  const put = (stretches: Line["stretches"], closed: boolean) => {
    const from = line?.start ?? start;
    if (!from) return;
    const name = line?.name ?? `Line ${(drawing?.length ?? 0) + 1}`;
    const identity = line?.id ?? freshId("p");
    useBench
      .getState()
      .commit({ do: "set-pen", line: { id: identity, name, start: [...from], stretches, closed } });
    setLine(closed ? null : identity);
    setStart(null);
    if (closed) setTail([]);
  };
  const stretch = (to: Point): Line["stretches"][number] => ({ kind, to: [...to] });
  const close = () => {
    if (line && line.stretches.length > 1) put([...line.stretches, stretch(line.start)], true);
  };
  const click = async (at: Point) => {
    const begin = line?.start ?? start;
    const near =
      begin && last && line && Math.hypot(at[0] - begin[0], at[1] - begin[1]) < CLOSE * pxPerScreen;
    if (near) return close();
    let to: Point = at;
    if (kind === "edge") {
      try {
        to = (await clung({ start: last ?? at, end: at, moving: false })).to;
      } catch {
        // The connection is gone: the click counts where it fell.
      }
    }
    if (!last) setStart(to);
    else put([...(line?.stretches ?? []), stretch(to)], false);
  };
  const move = (at: Point) => {
    if (!last) return;
    if (kind === "edge") latest.current?.ask({ start: last, end: at, moving: true });
    else setTail([last, at]);
  };
  const down = () => {
    latest.current?.cancel();
    setTail([]);
    setStart(null);
    setLine(null);
    useBench.getState().setTool(null);
  };
  const keys = useRef({ close, down, back: down });
  useEffect(() => {
    keys.current = {
      close,
      down,
      back: () => {
        setTail([]);
        if (!line) setStart(null);
        else useBench.getState().undo();
      },
    };
  });
  useEffect(() => {
    if (!on) return;
    const press = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.target instanceof HTMLButtonElement) return;
      if (event.key === "Enter") keys.current.close();
      else if (event.key === "Escape") keys.current.down();
      else if (event.key === "Backspace") keys.current.back();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [on]);
  return { on, start: line?.start ?? start, last, tail: on ? tail : [], click, move };
}

export type { PenKind };
