import type { Flat } from "../../api/client";
import type { Viewport } from "../flat/viewport";
import { useBench } from "../store";
import { isSheetTool } from "../tools";
import { BrushTool } from "./BrushTool";
import { ClicksTool } from "./ClicksTool";
import { FormTool } from "./FormTool";
import { LineTool } from "./LineTool";
import { NodesTool } from "./NodesTool";
import { Crossings, Leak, Measured, Player, SymmetryMark } from "./marks";
import { PickTool } from "./PickTool";
import { useShape } from "./state";
import { useShapeKeys } from "./useShapeKeys";

/** What the pointer does in Shape, over the flat view. */
export function ShapeLayer({ flat, view }: { flat: Flat; view: Viewport }) {
  const playing = useShape((s) => s.playing);
  useShapeKeys();
  if (playing !== null) return <Player flat={flat} view={view} />;
  return (
    <g>
      <SymmetryMark view={view} />
      <Tool flat={flat} view={view} />
      <Measured view={view} />
      <Leak view={view} />
      <Crossings view={view} />
    </g>
  );
}

function Tool({ flat, view }: { flat: Flat; view: Viewport }) {
  const tool = useBench((s) => s.tool);
  if (!isSheetTool(tool)) return <PickTool flat={flat} view={view} />;
  switch (tool) {
    case "nodes":
      return <NodesTool flat={flat} view={view} />;
    case "ease":
      return <BrushTool flat={flat} view={view} />;
    case "line":
      return <LineTool flat={flat} view={view} />;
    case "form":
    case "words":
      return <FormTool key={tool} flat={flat} view={view} tool={tool} />;
    default:
      return <ClicksTool key={tool} flat={flat} view={view} tool={tool} />;
  }
}
