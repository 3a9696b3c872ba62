import { api, data, Refused } from "../../api/client";
import { useNotices } from "../../ui/notices";
import { useBench } from "../store";
import { seed } from "./objects";
import { useShape } from "./state";

/** Pours at a place, whatever it runs together with. */
export function pourAll(at: readonly [number, number], gap: number): void {
  useShape.getState().set({ leak: null });
  useBench.getState().commit({ do: "pour", seed: seed(), at: [at[0], at[1]], gap });
}

/** Pours at a place; where it runs on through a gap, the gap is shown. */
export async function pour(at: readonly [number, number], gap: number): Promise<void> {
  const { piece } = useBench.getState();
  const { set } = useShape.getState();
  if (!piece) return;
  set({ leak: null });
  try {
    const found = await data(
      api.POST("/api/pieces/{piece_id}/leak", {
        params: { path: { piece_id: piece.id } },
        body: { revision: piece.revision, at: [at[0], at[1]], gap },
      }),
    );
    if (found.found) {
      set({ leak: { start: found.start, end: found.end, width: found.width, at, held: found.held } });
      return;
    }
    pourAll(at, gap);
  } catch (error) {
    if (error instanceof Refused && error.superseded) return;
    useNotices.getState().refuse(error instanceof Error ? error.message : "It could not be poured.");
  }
}
