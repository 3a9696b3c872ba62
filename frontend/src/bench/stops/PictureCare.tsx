import { Crop, Eraser, MoveDiagonal, Ruler, Scan, Sun, X } from "lucide-react";
import type { ReactNode } from "react";

import { Button, SignButton, ToolButton } from "../../ui/Button";
import { NumberField } from "../../ui/fields";
import type { Picture } from "../../api/client";
import { careEdit, careSwitch, STEP_NAMES, type CareTool } from "../care";
import { useUnderlay, useUnits } from "../select";
import { useBench } from "../store";
import { lengths, Section } from "./parts";

const TOOLS: readonly { tool: CareTool; name: string; sign: ReactNode }[] = [
  { tool: "crop", name: "Crop", sign: <Crop size={14} aria-hidden /> },
  { tool: "level", name: "Level", sign: <Ruler size={14} aria-hidden /> },
  { tool: "flatten", name: "Flatten", sign: <Scan size={14} aria-hidden /> },
  { tool: "rub", name: "Rub out", sign: <Eraser size={14} aria-hidden /> },
  { tool: "measure", name: "Scale", sign: <MoveDiagonal size={14} aria-hidden /> },
];

/** What is done to the picture before it is traced; the original stays. */
export function PictureCare({ picture }: { picture: Picture }) {
  const tool = useBench((s) => s.tool);
  const { setTool, commit } = useBench.getState();
  const steps = picture.care;
  return (
    <Section name="Picture care">
      <div className="grid grid-cols-3 gap-1.5">
        {TOOLS.map(({ tool: name, name: label, sign }) => (
          <ToolButton
            key={name}
            aria-pressed={tool === name}
            onClick={() => setTool(tool === name ? null : name)}
          >
            {sign} {label}
          </ToolButton>
        ))}
        <Button
          className="px-1! text-[12.5px]"
          aria-label="Even light"
          title="Even light"
          disabled={steps.some((s) => s.do === "even")}
          onClick={() => commit(careEdit(picture, { do: "even" }))}
        >
          <Sun size={14} aria-hidden /> Light
        </Button>
      </div>
      <Measured />
      {steps.length > 0 && (
        <ol aria-label="Steps of picture care" className="border-rule mt-2 border-t">
          {steps.map((step, i) => (
            <li key={i} className="border-rule flex h-8 items-center justify-between border-b pl-1">
              <label className={`flex items-center gap-2 ${step.off ? "text-soft line-through" : ""}`}>
                <input
                  type="checkbox"
                  className="accent-act size-4"
                  checked={!step.off}
                  aria-label={`Step ${i + 1}, ${STEP_NAMES[step.do].toLowerCase()}`}
                  onChange={(event) => commit(careSwitch(picture, i, event.target.checked ? "on" : "off"))}
                />
                {STEP_NAMES[step.do]}
              </label>
              <SignButton
                label={`Remove step ${i + 1}, ${STEP_NAMES[step.do].toLowerCase()}`}
                onClick={() => commit(careSwitch(picture, i, "gone"))}
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

/** The distance between two points of the picture, to be typed; the picture takes its size from it. */
function Measured() {
  const points = useBench((s) => s.measured);
  const underlay = useUnderlay();
  const units = useUnits();
  const { commit, setMeasured } = useBench.getState();
  if (!points || !underlay) return null;
  const [[ax, ay], [bx, by]] = points;
  const apart = Math.hypot(bx - ax, by - ay);
  return (
    <div className="border-act bg-act-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2">
      <NumberField
        label="Between the two points"
        value={apart}
        notation={lengths(units)}
        min={0.1}
        max={10_000}
        step={1}
        onCommit={(mm) => {
          commit({
            do: "set-scale",
            picture: underlay.id,
            mm,
            points: [
              [ax, ay],
              [bx, by],
            ],
          });
          setMeasured(null);
        }}
      />
      <p className="text-soft text-xs">
        {Math.round(apart / underlay.mm_per_px)} px of the picture. Type the distance you know; the picture
        takes its size from it.
      </p>
    </div>
  );
}
