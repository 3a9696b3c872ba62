/** Where the sheet lies on the screen: screen = mm × scale + offset. */
export type Viewport = { scale: number; x: number; y: number };
export type Rect = { x: number; y: number; width: number; height: number };

const SMALLEST = 0.05;
const LARGEST = 4000;

/** The viewport that shows a box of the sheet whole, with a margin in px, below and right of the rulers. */
export function fitted(box: Rect, width: number, height: number, ruler: number, margin = 34): Viewport {
  const roomX = Math.max(width - ruler - 2 * margin, 20);
  const roomY = Math.max(height - ruler - 2 * margin, 20);
  const scale = clamp(Math.min(roomX / Math.max(box.width, 1e-6), roomY / Math.max(box.height, 1e-6)));
  return {
    scale,
    x: ruler + (width - ruler - box.width * scale) / 2 - box.x * scale,
    y: ruler + (height - ruler - box.height * scale) / 2 - box.y * scale,
  };
}

/** Zoomed by a factor, the point of the sheet under (x, y) staying there. */
export function zoomed(view: Viewport, factor: number, x: number, y: number): Viewport {
  const scale = clamp(view.scale * factor);
  const real = scale / view.scale;
  return { scale, x: x - (x - view.x) * real, y: y - (y - view.y) * real };
}

function clamp(scale: number): number {
  return Math.min(LARGEST, Math.max(SMALLEST, scale));
}

/** The box round two boxes. */
export function around(a: Rect, b: Rect): Rect {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return {
    x,
    y,
    width: Math.max(a.x + a.width, b.x + b.width) - x,
    height: Math.max(a.y + a.height, b.y + b.height) - y,
  };
}

/** Places of ruler ticks between two values: the step is 1, 2 or 5 times a power of ten, at least `room` px apart. */
export function ticks(
  from: number,
  to: number,
  pxPerUnit: number,
  room = 56,
): { step: number; at: { value: number; major: boolean }[] } {
  const raw = room / pxPerUnit;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= raw) ?? 10 * power;
  const small = step / 5;
  const at = [];
  for (let i = Math.ceil(from / small); i * small <= to; i++)
    at.push({ value: i * small, major: i % 5 === 0 });
  return { step, at };
}
