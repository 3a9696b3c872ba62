import { useBench } from "../store";
import { TOOL_HINTS } from "../tools";

/** What the next click does, over the view while a tool is in the hand. */
export function ToolHint() {
  const tool = useBench((s) => s.tool);
  const hint = useBench((s) => s.hint);
  if (!tool) return null;
  return (
    <p
      data-tool-hint
      className="bg-ink text-paper pointer-events-none absolute bottom-3 left-1/2 max-w-[90%] -translate-x-1/2 rounded-md px-3 py-1 text-center text-[12.5px] opacity-90"
    >
      {hint ?? TOOL_HINTS[tool]}
    </p>
  );
}
