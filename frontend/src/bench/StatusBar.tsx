import { formatLength, unitName } from "../ui/length";
import { extentOf } from "./flat/place";
import { useBegun, useShown, useUnits, usePicture } from "./select";
import { boxOf } from "./shape/objects";
import { usePicked } from "./shape/useSheet";
import { useBench } from "./store";

const NEXT: Record<string, string> = {
  Gather: "Drop or paste another picture to lay it on the sheet too.",
  Shape:
    "Click to pick, Shift for more, Alt-drag for what lies wholly inside; drag to move, with Ctrl a copy.",
  Raise: "Click a region to pick it, Shift-click for more; then set its height.",
  Prove: "Export a file: it is read back and checked first.",
};

const NEXT_IN_TRACE: Record<string, string> = {
  ink: "Move the level and watch the outline over the picture.",
  colours: "Set how many colours; pick some to merge, drop or name the background.",
  strokes: "Move the level until every line is there; give all one width if you like.",
};

/** Where the pointer is, what is picked, what comes next, and how big it all is. */
export function StatusBar() {
  const pointer = useBench((s) => s.pointer);
  const picked = useBench((s) => s.picked);
  const stop = useBench((s) => s.stop);
  const mode = usePicture()?.trace.mode ?? "ink";
  const tool = useBench((s) => s.tool);
  const hint = useBench((s) => s.hint);
  const begun = useBegun();
  const flat = useShown();
  const units = useUnits();
  const next = stop === "Trace" ? NEXT_IN_TRACE[mode] : NEXT[stop];
  const unit = unitName(units);
  const mm = (value: number) => formatLength(value, units);
  const regions =
    flat?.regions.filter((r) => picked.includes(r.id) || (r.drawn && picked.includes(r.drawn))) ?? [];
  const items = usePicked();
  const whole = stop === "Shape" ? boxOf(items) : null;
  const one = regions.length === 1 ? regions[0] : undefined;
  const [width, depth] = flat ? extentOf(flat) : [0, 0];
  return (
    <footer className="border-rule text-soft col-span-3 flex items-center gap-6 overflow-hidden border-t px-4 text-[12.5px] whitespace-nowrap">
      <span className="w-[132px]">
        {pointer ? `x ${mm(pointer.x)}  y ${mm(pointer.y)} ${unit}` : "pointer off the sheet"}
      </span>
      <span>
        {whole
          ? `${items.length > 1 ? `${items.length} picked` : "picked"}: ${mm(whole.width)} × ${mm(whole.height)} ${unit}`
          : one
            ? `picked: ${mm(one.box[2])} × ${mm(one.box[3])} ${unit}`
            : regions.length
              ? `${regions.length} regions picked`
              : "nothing picked"}
      </span>
      <span className="truncate">
        {tool
          ? // What the tool does is said over the view.
            null
          : (hint ?? (begun || stop === "Shape" ? next : "Drop a picture anywhere to start."))}
      </span>
      <span className="grow" />
      {stop === "Trace" && flat && flat.regions.length > 0 && (
        <span>
          {flat.regions.length} {flat.regions.length === 1 ? "outline" : "outlines"}, {flat.nodes} nodes
        </span>
      )}
      {flat && flat.regions.length > 0 && (
        <span className="text-ink">
          <span className="sr-only">Size of the solid: </span>
          {mm(width)} × {mm(depth)} × {mm(flat.total_height)} {unit}
        </span>
      )}
    </footer>
  );
}
