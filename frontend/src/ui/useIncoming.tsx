import { useEffect, useLayoutEffect, useRef, useState } from "react";

/** Takes files, and where on the screen they were dropped; null for what was pasted. */
type Take = (files: File[], at: readonly [number, number] | null) => void;

/** Files that are dropped anywhere on the page or pasted from the clipboard. True while one hovers over the page. */
export function useIncoming(take: Take): boolean {
  const [over, setOver] = useState(false);
  const depth = useRef(0);
  const taker = useRef(take);
  useEffect(() => {
    taker.current = take;
  });
  // Before the page is first seen, so that nothing that is dropped on it is missed.
  useLayoutEffect(() => {
    const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      depth.current += 1;
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      depth.current -= 1;
      if (depth.current <= 0) setOver(false);
    };
    const hold = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      depth.current = 0;
      setOver(false);
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length) taker.current(files, [event.clientX, event.clientY]);
    };
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (!files.length) return;
      event.preventDefault();
      taker.current(files, null);
    };
    window.addEventListener("dragenter", enter);
    window.addEventListener("dragleave", leave);
    window.addEventListener("dragover", hold);
    window.addEventListener("drop", drop);
    window.addEventListener("paste", paste);
    return () => {
      window.removeEventListener("dragenter", enter);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("dragover", hold);
      window.removeEventListener("drop", drop);
      window.removeEventListener("paste", paste);
    };
  }, []);
  return over;
}

export function DropVeil({ text }: { text: string }) {
  return (
    <div className="bg-act-wash/90 border-act text-act pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-xl border-2 border-dashed">
      <p className="font-head text-3xl font-semibold">{text}</p>
    </div>
  );
}
