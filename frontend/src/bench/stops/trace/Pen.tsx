import { PenLine, X } from "lucide-react";

import { SignButton, ToolButton } from "../../../ui/Button";
import { Choice, SwitchField } from "../../../ui/fields";
import { usePenState, type PenKind } from "../../pen";
import { usePicture } from "../../select";
import { useBench } from "../../store";
import { Section } from "../parts";

const KINDS = [
  { value: "edge", name: "Cling" },
  { value: "straight", name: "Straight" },
  { value: "through", name: "Through" },
] as const;
const MEANING: Record<PenKind, string> = {
  edge: "The line follows the strongest edge to the pointer.",
  straight: "A straight line to the pointer.",
  through: "A curve through the points that are clicked.",
};

/** Outlines drawn by hand over the picture. */
export function Pen() {
  const picture = usePicture();
  const tool = useBench((s) => s.tool);
  const { setTool, commit } = useBench.getState();
  const { kind, line: current, setKind, setLine } = usePenState();
  const lines = picture?.pen ?? [];
  const on = tool === "pen";
  return (
    <Section name="Pen" side={lines.length ? String(lines.length) : undefined}>
      <Choice label="How the pen runs" value={kind} options={KINDS} onChange={setKind} />
      <p className="text-soft py-1 text-xs">{MEANING[kind]}</p>
      <ToolButton
        className="w-full"
        aria-pressed={on}
        onClick={() => {
          setLine(null);
          setTool(on ? null : "pen");
        }}
      >
        <PenLine size={14} aria-hidden /> {on ? "Put the pen down" : "Draw over the picture"}
      </ToolButton>
      {lines.length > 0 && (
        <ul aria-label="Lines of the pen" className="border-rule mt-1.5 border-t">
          {lines.map((line) => (
            <li key={line.id} className="border-rule flex h-8 items-center justify-between border-b pl-1">
              <span>{line.name}</span>
              <span className="flex items-center">
                {line.closed ? (
                  <span className="text-soft text-xs">closed</span>
                ) : (
                  <button
                    type="button"
                    aria-label={`Continue ${line.name}`}
                    aria-pressed={on && current === line.id}
                    className="text-act text-xs font-semibold hover:underline"
                    onClick={() => {
                      setLine(line.id);
                      setTool("pen");
                    }}
                  >
                    go on
                  </button>
                )}
                <SignButton
                  label={`Delete ${line.name}`}
                  onClick={() => commit({ do: "drop-pen", picture: picture?.id ?? null, id: line.id })}
                >
                  <X size={14} />
                </SignButton>
              </span>
            </li>
          ))}
        </ul>
      )}
      <SwitchField
        label="Only what the pen draws"
        checked={picture?.tracing === false}
        onChange={(only) => commit({ do: "set-tracing", picture: picture?.id ?? null, on: !only })}
      />
    </Section>
  );
}
