import { Crop, Eraser, Ruler, Scan, Sun, X } from "lucide-react";
import type { ReactNode } from "react";

import { Button, SignButton } from "../../ui/Button";
import { careEdit, careWithout, STEP_NAMES, type Source, type Tool } from "../care";
import { useBench } from "../store";
import { Section } from "./parts";

const TOOLS: readonly { tool: Tool; name: string; sign: ReactNode }[] = [
  { tool: "crop", name: "Crop", sign: <Crop size={14} aria-hidden /> },
  { tool: "level", name: "Level", sign: <Ruler size={14} aria-hidden /> },
  { tool: "flatten", name: "Flatten", sign: <Scan size={14} aria-hidden /> },
  { tool: "rub", name: "Rub out", sign: <Eraser size={14} aria-hidden /> },
];

/** What is done to the picture before it is traced; the original stays. */
export function PictureCare({ source }: { source: Source }) {
  const tool = useBench((s) => s.tool);
  const { setTool, commit } = useBench.getState();
  const steps = source.care ?? [];
  return (
    <Section name="Picture care">
      <div className="grid grid-cols-3 gap-1.5">
        {TOOLS.map(({ tool: name, name: label, sign }) => (
          <Button
            key={name}
            aria-pressed={tool === name}
            className="aria-pressed:border-act! aria-pressed:bg-act-wash! px-1! text-[12.5px]"
            onClick={() => setTool(tool === name ? null : name)}
          >
            {sign} {label}
          </Button>
        ))}
        <Button
          className="col-span-2 px-1! text-[12.5px]"
          disabled={steps.some((s) => s.do === "even")}
          onClick={() => commit(careEdit(source, { do: "even" }))}
        >
          <Sun size={14} aria-hidden /> Even out light
        </Button>
      </div>
      {steps.length > 0 && (
        <ol aria-label="Steps of picture care" className="border-rule mt-2 border-t">
          {steps.map((step, i) => (
            <li key={i} className="border-rule flex h-8 items-center justify-between border-b pl-1">
              <span>
                {i + 1}. {STEP_NAMES[step.do]}
              </span>
              <SignButton
                label={`Take back step ${i + 1}, ${STEP_NAMES[step.do].toLowerCase()}`}
                onClick={() => commit(careWithout(source, i))}
              >
                <X size={14} />
              </SignButton>
            </li>
          ))}
        </ol>
      )}
    </Section>
  );
}
