import { BoxSelect, Lasso, X } from "lucide-react";

import { SignButton, ToolButton } from "../../../ui/Button";
import { usePicture } from "../../select";
import { useBench } from "../../store";
import { Section } from "../parts";

/** Parts of the picture that are traced by themselves, each in its own way. */
export function Areas() {
  const picture = usePicture();
  const current = useBench((s) => s.area);
  const tool = useBench((s) => s.tool);
  const { setTool, setArea, commit } = useBench.getState();
  const areas = picture?.areas ?? [];
  const active = areas.find((a) => a.id === current) ?? areas[0];
  return (
    <Section name="Trace only parts" side={areas.length ? `${areas.length}` : "the whole picture"}>
      {areas.length > 0 && (
        <ul aria-label="Areas" className="border-rule mb-1.5 border-t">
          {areas.map((area) => (
            <li key={area.id} className="border-rule flex h-8 items-center border-b">
              <button
                type="button"
                aria-pressed={area.id === active?.id}
                onClick={() => setArea(area.id)}
                className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-full grow items-center justify-between px-1.5 text-left"
              >
                {area.name}
                <span className="text-soft text-xs">{area.trace.mode}</span>
              </button>
              <SignButton
                label={`Remove ${area.name}`}
                onClick={() => commit({ do: "drop-area", picture: picture?.id ?? null, id: area.id })}
              >
                <X size={14} />
              </SignButton>
            </li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-2 gap-1.5">
        {(
          [
            ["area-box", "Box", <BoxSelect key="b" size={14} aria-hidden />],
            ["area-free", "Freehand", <Lasso key="f" size={14} aria-hidden />],
          ] as const
        ).map(([name, label, sign]) => (
          <ToolButton
            key={name}
            aria-pressed={tool === name}
            onClick={() => setTool(tool === name ? null : name)}
          >
            {sign} {label}
          </ToolButton>
        ))}
      </div>
    </Section>
  );
}
