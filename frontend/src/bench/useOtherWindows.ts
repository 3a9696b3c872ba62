import { useEffect } from "react";

import { useBench } from "./store";
import { listen } from "./windows";

/** Keeps the bench at what stands when other windows change the piece, and warns before changes are left behind. */
export function useOtherWindows(): void {
  useEffect(() => {
    // A server that cannot be asked now is asked again at the next occasion.
    const catchUp = () =>
      void useBench
        .getState()
        .catchUp()
        .catch(() => undefined);
    const seen = () => document.visibilityState === "visible" && catchUp();
    const stop = listen((told) => {
      const { piece } = useBench.getState();
      if (piece?.id === told.piece && told.revision !== piece.revision) catchUp();
    });
    const warn = (event: BeforeUnloadEvent) => {
      const { saved } = useBench.getState();
      if (saved === "saving" || saved === "waiting") event.preventDefault();
    };
    document.addEventListener("visibilitychange", seen);
    window.addEventListener("focus", seen);
    window.addEventListener("online", seen);
    window.addEventListener("beforeunload", warn);
    return () => {
      stop();
      document.removeEventListener("visibilitychange", seen);
      window.removeEventListener("focus", seen);
      window.removeEventListener("online", seen);
      window.removeEventListener("beforeunload", warn);
    };
  }, []);
}
