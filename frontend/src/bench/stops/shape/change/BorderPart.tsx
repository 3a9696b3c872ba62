import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, data, type Edit } from "../../../../api/client";
import { Button } from "../../../../ui/Button";
import { Choice, SliderField, SwitchField } from "../../../../ui/fields";
import { formatLength, unitName } from "../../../../ui/length";
import { useUnits } from "../../../select";
import { idsOf, seed, type Item } from "../../../shape/objects";
import { useBench } from "../../../store";
import { lengths, Section } from "../../parts";
import { say } from "./change";

export function Border({ picked }: { picked: readonly Item[] }) {
  const units = useUnits();
  const piece = useBench((s) => s.piece);
  const [by, setBy] = useState(3);
  const [corners, setCorners] = useState<"round" | "mitre" | "bevel">("round");
  const [fill, setFill] = useState(false);
  const [keep, setKeep] = useState(true);
  const name = useRef(seed());
  const names = idsOf(picked);
  const { data: found } = useQuery({
    queryKey: ["joining", piece?.id, piece?.revision, names],
    queryFn: ({ signal }) =>
      data(
        api.POST("/api/pieces/{piece_id}/joining", {
          params: { path: { piece_id: piece?.id ?? "" } },
          body: { revision: piece?.revision ?? 0, picked: names },
          signal,
        }),
      ),
    enabled: Boolean(piece && names.length),
    retry: false,
  });
  const edit = (mm: number): Edit => ({
    do: "offset",
    seed: name.current,
    picked: names,
    by: mm,
    back: 0,
    corners,
    fill_holes: fill,
    keep,
  });
  const make = (change: Partial<Extract<Edit, { do: "offset" }>> = {}) => {
    say({ ...edit(by), ...change } as Edit);
    name.current = seed();
  };
  const loose = found && found.parts > 1 ? found : null;
  return (
    <Section name="Border" side={picked.length ? undefined : "pick outlines"}>
      <SliderField
        label={by < 0 ? "Shrink by" : "Grow by"}
        notation={lengths(units)}
        value={by}
        min={-15}
        max={100}
        sliderMax={15}
        step={0.1}
        disabled={!picked.length}
        onPreview={(mm) => useBench.getState().previewEdit(edit(mm))}
        onCommit={setBy}
      />
      <Choice
        label="Corners"
        value={corners}
        options={[
          { value: "round", name: "round" },
          { value: "mitre", name: "mitred" },
          { value: "bevel", name: "bevelled" },
        ]}
        onChange={setCorners}
      />
      <SwitchField label="Fill holes" checked={fill} onChange={setFill} />
      <SwitchField label="Keep what is inside" checked={keep} onChange={setKeep} />
      <Button kind="act" className="w-full" disabled={!picked.length || by === 0} onClick={() => make()}>
        {by < 0 ? "Shrink" : "Make the border"}
      </Button>
      {loose && (
        <div className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-2 text-[13px]">
          <p className="mb-1.5" data-joining={loose.growth.toFixed(3)}>
            The pick is in {loose.parts} separate parts. Growing it by {formatLength(loose.growth, units, 3)}{" "}
            {unitName(units)} joins them.
          </p>
          <Button
            className="w-full"
            onClick={() => make({ by: Math.ceil((Math.hypot(loose.growth, 0.8) + 0.005) * 100) / 100 })}
          >
            Grow just enough
          </Button>
        </div>
      )}
      <Button
        className="mt-1.5 w-full"
        disabled={!picked.length}
        title="Grows and shrinks back: gaps narrower than twice as much close."
        onClick={() => make({ by: Math.abs(by) / 2, back: -Math.abs(by) / 2, keep: false })}
      >
        Close gaps up to {formatLength(Math.abs(by), units)} {unitName(units)}
      </Button>
    </Section>
  );
}
