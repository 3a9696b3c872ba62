import { Brush, Circle, Slash, Spline } from "lucide-react";
import { useMemo, useState } from "react";
import { Button } from "../../../../ui/Button";
import { NumberField, SliderField } from "../../../../ui/fields";
import { useUnits } from "../../../select";
import { contoursOf, nodePlaces } from "../../../shape/contours";
import { changeNodes } from "../../../shape/NodesTool";
import { idsOf, type Item } from "../../../shape/objects";
import { useShape } from "../../../shape/state";
import { useItems, usePicked } from "../../../shape/useSheet";
import { useBench } from "../../../store";
import { lengths, Section } from "../../parts";
import { Tools } from "../Tools";
import { say } from "./change";

export function NodeTools() {
  const nodes = useShape((s) => s.nodes);
  const brush = useShape((s) => s.brush);
  const tool = useBench((s) => s.tool);
  const { set } = useShape.getState();
  const units = useUnits();
  const picked = usePicked();
  const [tolerance, setTolerance] = useState(0.05);
  const before = picked.reduce((sum, i) => sum + i.nodes, 0);
  return (
    <Section name="Nodes" side={before ? `${before} in the pick` : undefined}>
      <Tools
        tools={[
          { tool: "nodes", name: "Nodes", sign: <Spline size={14} aria-hidden /> },
          { tool: "ease", name: "Ease", sign: <Brush size={14} aria-hidden /> },
          { tool: "straighten", name: "Straighten", sign: <Slash size={14} aria-hidden /> },
          { tool: "arc", name: "Make an arc", sign: <Circle size={14} aria-hidden /> },
        ]}
      />
      {tool === "nodes" && (
        <div className="mt-1.5 grid grid-cols-3 gap-1" aria-label="What to do with nodes" role="group">
          {(
            [
              ["smooth", "Smooth"],
              ["corner", "Corner"],
              ["delete", "Delete"],
              ["line", "To line"],
              ["curve", "To curve"],
              ["open", "Open here"],
            ] as const
          ).map(([how, name]) => (
            <Button
              key={how}
              className="h-7! px-1! text-[12.5px]"
              disabled={!nodes}
              onClick={() => changeNodes(how)}
            >
              {name}
            </Button>
          ))}
        </div>
      )}
      {tool === "nodes" && nodes && <NodeNumbers nodes={nodes} />}
      {tool === "ease" && (
        <div className="mt-1.5 space-y-1.5">
          <NumberField
            label="Brush radius"
            notation={lengths(units)}
            value={brush.radius}
            min={0.1}
            max={100}
            step={0.5}
            onCommit={(radius) => set({ brush: { ...brush, radius } })}
          />
          <NumberField
            label="Stays within"
            notation={lengths(units)}
            value={brush.tolerance}
            min={0.01}
            max={10}
            step={0.05}
            onCommit={(mm) => set({ brush: { ...brush, tolerance: mm } })}
          />
        </div>
      )}
      <SliderField
        label="Simplify within"
        notation={lengths(units)}
        value={tolerance}
        min={0.005}
        max={2}
        sliderMax={0.5}
        step={0.005}
        disabled={!picked.length}
        onPreview={(mm) =>
          useBench.getState().previewEdit({ do: "simplify", picked: idsOf(picked), tolerance: mm })
        }
        onCommit={setTolerance}
      />
      <SimplifyCount picked={picked} />
      <Button
        className="w-full"
        disabled={!picked.length}
        onClick={() => say({ do: "simplify", picked: idsOf(picked), tolerance })}
      >
        Simplify
      </Button>
    </Section>
  );
}

/** Where the picked node lies; of several, their middle. Typed, they are moved there. */
function NodeNumbers({ nodes }: { nodes: { id: string; contour: number; at: readonly number[] } }) {
  const units = useUnits();
  const item = useItems().find((i) => i.id === nodes.id);
  const contour = useMemo(() => contoursOf(item?.path ?? "")[nodes.contour], [item?.path, nodes.contour]);
  const places = contour ? nodePlaces(contour).filter((_, i) => nodes.at.includes(i)) : [];
  if (!places.length) return null;
  const middle = (axis: 0 | 1) => places.reduce((sum, p) => sum + p[axis], 0) / places.length;
  const field = (axis: 0 | 1) => (
    <NumberField
      label={`${places.length > 1 ? "Middle of them" : "Node"}, ${axis ? "y" : "x"}`}
      notation={lengths(units)}
      value={Number(middle(axis).toFixed(4))}
      min={-1e5}
      max={1e5}
      step={units === "mm" ? 0.5 : 25.4 / 32}
      onCommit={(mm) =>
        say({
          do: "move-nodes",
          id: nodes.id,
          contour: nodes.contour,
          nodes: [...nodes.at],
          by: axis ? [0, mm - middle(1)] : [mm - middle(0), 0],
        })
      }
    />
  );
  return (
    <div className="mt-1.5 space-y-1.5">
      {field(0)}
      {field(1)}
    </div>
  );
}

/** How many nodes a simplification would leave, while its slider is moved. */
function SimplifyCount({ picked }: { picked: readonly Item[] }) {
  const draft = useBench((s) => s.draft);
  const items = useItems();
  const stands = useBench((s) => s.flat);
  if (draft?.do !== "simplify" || !picked.length) return null;
  const names = new Set(idsOf(picked));
  const after = items.filter((i) => names.has(i.id)).reduce((sum, i) => sum + i.nodes, 0);
  const before =
    (stands?.regions.filter((r) => names.has(r.id)).reduce((sum, r) => sum + r.nodes, 0) ?? 0) +
    (stands?.things.filter((t) => names.has(t.id)).reduce((sum, t) => sum + t.nodes, 0) ?? 0);
  return (
    <p className="text-soft mb-1 text-[12.5px]">
      {before} nodes become {after}.
    </p>
  );
}
