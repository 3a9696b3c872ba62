import { bothViews, swapViews } from "../arrangement";
import { regionsEdit } from "../select";
import { STOPS, useBench } from "../store";
import { useKeys } from "./useKeys";

/** Keys that work anywhere on the bench. */
export function useBenchKeys(): void {
  useKeys("bench", {
    undo: () => {
      const { piece, draft, undo } = useBench.getState();
      // An edit that is on its way can be undone as well.
      if (piece?.can_undo || draft) undo();
    },
    redo: () => {
      const { piece, redo } = useBench.getState();
      if (piece?.can_redo) redo();
    },
    "go-to-stop": ({ code }) => {
      const stop = STOPS[Number(code.slice("Digit".length)) - 1];
      if (stop) useBench.getState().setStop(stop);
    },
    "swap-views": swapViews,
    "both-views": bothViews,
    "throw-away": leaveOut,
    "put-down": () => useBench.getState().pick(null, false),
  });
}

/** Regions that are picked are not raised any more. */
function leaveOut(): void {
  const { picked, flat, commit } = useBench.getState();
  const regions = flat?.regions.filter((r) => picked.includes(r.id) && !r.left_out) ?? [];
  if (regions.length) commit(regionsEdit(regions, { left_out: true }));
}
