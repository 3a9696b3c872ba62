import { useMovable } from "./useMovable";
import { fitted, type Rect } from "./viewport";

/** px left free round what is shown. */
const MARGIN = 60;

/** A sheet that is only looked at. whole: what of it is shown to begin with, mm. */
export function useStill(whole: Rect) {
  const { view, frame, size, zoom, fit, handlers } = useMovable(({ width, height }) =>
    fitted(whole, width, height, 0, MARGIN),
  );
  const transform = `translate(${view.x} ${view.y}) scale(${view.scale})`;
  return { frame, size, transform, zoom, fit, handlers };
}
