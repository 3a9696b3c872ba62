import type { ReactNode } from "react";

import { ToolButton } from "../../../ui/Button";
import { useBench } from "../../store";
import type { SheetTool } from "../../tools";

/** Buttons that take up a tool of Shape and put it down again. */
export function Tools({
  tools,
}: {
  tools: readonly { tool: SheetTool; name: string; sign?: ReactNode; disabled?: boolean }[];
}) {
  const held = useBench((s) => s.tool);
  const { setTool } = useBench.getState();
  return (
    <div className={`grid gap-1.5 ${tools.length > 1 ? "grid-cols-2" : ""}`}>
      {tools.map(({ tool, name, sign, disabled }) => (
        <ToolButton
          key={tool}
          aria-pressed={held === tool}
          disabled={disabled}
          onClick={() => setTool(held === tool ? null : tool)}
        >
          {sign} {name}
        </ToolButton>
      ))}
    </div>
  );
}
