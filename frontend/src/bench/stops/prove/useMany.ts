import { useRef, useState } from "react";

import { api, data, type Schemas } from "../../../api/client";
import { useBench } from "../../store";

type Made = { key: string; name: string };
export type Packed = Schemas["PackedOut"];
export type Order = {
  text: string;
  words: string | null;
  packing: "beds" | "stl";
  bed: [number, number];
  spacing: number;
};
type State = {
  running: boolean;
  /** How many of how many are done, and the name that is being made. */
  done: number;
  of: number;
  name: string;
  failed: readonly { name: string; why: string }[];
  packed: Packed | null;
  problem: string | null;
};
const IDLE: State = { running: false, done: 0, of: 0, name: "", failed: [], packed: null, problem: null };

/** Makes the piece for one name after the other, so that the page and its previews stay free; then packs them. */
export function useMany(): { state: State; make: (order: Order) => Promise<void>; stop: () => void } {
  const [state, setState] = useState<State>(IDLE);
  const stopping = useRef<AbortController | null>(null);
  const make = async (order: Order) => {
    const piece = useBench.getState().piece;
    if (!piece) return;
    const stop = new AbortController();
    stopping.current = stop;
    const params = { path: { piece_id: piece.id } };
    const failed: { name: string; why: string }[] = [];
    const made: Made[] = [];
    setState({ ...IDLE, running: true });
    try {
      const { names } = await data(
        api.POST("/api/names", { body: { text: order.text }, signal: stop.signal }),
      );
      for (const [i, name] of names.entries()) {
        setState((s) => ({ ...s, done: i, of: names.length, name }));
        try {
          const one = await data(
            api.POST("/api/pieces/{piece_id}/many/one", {
              params,
              body: { revision: piece.revision, name, words: order.words, packing: order.packing },
              signal: stop.signal,
            }),
          );
          made.push({ key: one.key, name });
        } catch (error) {
          if (stop.signal.aborted) throw error;
          failed.push({ name, why: error instanceof Error ? error.message : "It could not be made." });
        }
      }
      setState((s) => ({ ...s, done: names.length, name: "packing" }));
      const packed = made.length
        ? await data(
            api.POST("/api/pieces/{piece_id}/many/pack", {
              params,
              body: { made, packing: order.packing, bed: order.bed, spacing: order.spacing },
              signal: stop.signal,
            }),
          )
        : null;
      setState((s) => ({ ...s, running: false, failed, packed }));
      if (packed) {
        const link = document.createElement("a");
        link.href = packed.url;
        link.download = packed.name;
        link.click();
      }
    } catch (error) {
      const problem = stop.signal.aborted ? null : error instanceof Error ? error.message : "It stopped.";
      setState((s) => ({ ...IDLE, failed, problem, done: s.done, of: stop.signal.aborted ? s.of : 0 }));
    }
  };
  return { state, make, stop: () => stopping.current?.abort() };
}
