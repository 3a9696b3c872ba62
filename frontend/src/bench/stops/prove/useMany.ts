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
  what: "names" | "beds";
  /** Pieces that were made. */
  pieces: number;
  failed: readonly { name: string; why: string }[];
  packed: Packed | null;
  problem: string | null;
};
const IDLE: State = {
  running: false,
  done: 0,
  of: 0,
  name: "",
  what: "names",
  pieces: 0,
  failed: [],
  packed: null,
  problem: null,
};

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
    /** Lays everything on beds and makes these one after the other. */
    const bedsOf = async ({ bed, spacing }: Order, made: Made[]): Promise<Made[]> => {
      const { beds } = await data(
        api.POST("/api/pieces/{piece_id}/many/beds", {
          params,
          body: { made, bed, spacing },
          signal: stop.signal,
        }),
      );
      const written: Made[] = [];
      for (const [i, laid] of beds.entries()) {
        setState((s) => ({ ...s, done: i, of: beds.length, what: "beds", name: `bed ${i + 1}` }));
        const { key } = await data(
          api.POST("/api/pieces/{piece_id}/many/bed", {
            params,
            body: { number: i + 1, laid },
            signal: stop.signal,
          }),
        );
        written.push({ key, name: `bed-${i + 1}` });
      }
      return written;
    };
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
              body: {
                revision: piece.revision,
                name,
                words: order.words,
                packing: order.packing,
                among: names.length,
              },
              signal: stop.signal,
            }),
          );
          made.push({ key: one.key, name });
        } catch (error) {
          if (stop.signal.aborted) throw error;
          failed.push({ name, why: error instanceof Error ? error.message : "It could not be made." });
        }
      }
      setState((s) => ({ ...s, done: names.length, name: "" }));
      const beds = order.packing === "beds" && made.length ? await bedsOf(order, made) : null;
      const files = beds ?? made;
      const packed = files.length
        ? await data(
            api.POST("/api/pieces/{piece_id}/many/pack", {
              params,
              body: { made: files, suffix: order.packing === "stl" ? "stl" : "3mf" },
              signal: stop.signal,
            }),
          )
        : null;
      setState((s) => ({ ...s, running: false, failed, packed, pieces: made.length }));
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
