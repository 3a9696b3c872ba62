import { useFrame, useThree } from "@react-three/fiber";
import { useCallback, useEffect, useRef, type RefObject } from "react";

import { isDue } from "./due";

/** How long nothing changes (ms) until shadows and fine edges are drawn where the processor does it. */
const REST_MS = 400;
/** Points a side of each pixel that are drawn of what rests, where the processor draws. */
const FINE = 2;
const COARSE = 0.75;

let processor: boolean | null = null;

/** Whether the browser has no graphics processor to draw with. */
export function drawnByProcessor(): boolean {
  processor ??= softwareDraws();
  return processor;
}

function softwareDraws(): boolean {
  const context = document.createElement("canvas").getContext("webgl2");
  const names = context?.getExtension("WEBGL_debug_renderer_info");
  const renderer = names && (context?.getParameter(names.UNMASKED_RENDERER_WEBGL) as string);
  context?.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(renderer ?? "");
}

/** Lays an element that fills its parent on whole pixels, since what lies between them is blurred or jagged. */
export function useWholePixels(): RefObject<HTMLDivElement | null> {
  const element = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const parent = element.current?.parentElement;
    if (!parent) return;
    const lay = () => {
      const { left, right } = parent.getBoundingClientRect();
      if (!element.current) return;
      element.current.style.left = `${Math.ceil(left) - left}px`;
      element.current.style.right = `${right - Math.floor(right)}px`;
    };
    const watcher = new ResizeObserver(lay);
    watcher.observe(parent);
    return () => watcher.disconnect();
  }, []);
  return element;
}

/**
 * Where the processor draws, what moves is drawn coarse and without new shadows, so that it follows the hand; once it
 * rests it is drawn finely. Returns what asks for new shadows.
 */
export function useQuality(): () => void {
  const three = useThree((s) => s.get);
  const shadowsDue = useRef(true);
  const fine = useRef(false);
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(resting.current), []);
  useFrame(({ gl, invalidate }) => {
    if (!drawnByProcessor()) return;
    if (fine.current) {
      fine.current = false;
      return;
    }
    if (gl.getPixelRatio() !== COARSE) gl.setPixelRatio(COARSE);
    clearTimeout(resting.current);
    const rest = () => {
      // The next frame is of the solid that is to come: a costly one before it would only keep it waiting.
      if (isDue()) {
        resting.current = setTimeout(rest, REST_MS);
        return;
      }
      fine.current = true;
      gl.setPixelRatio(FINE);
      gl.shadowMap.needsUpdate ||= shadowsDue.current;
      shadowsDue.current = false;
      invalidate();
    };
    resting.current = setTimeout(rest, REST_MS);
  });
  return useCallback(() => {
    if (drawnByProcessor()) shadowsDue.current = true;
    else three().gl.shadowMap.needsUpdate = true;
    three().invalidate();
  }, [three]);
}
