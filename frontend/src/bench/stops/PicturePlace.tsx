import { Move } from "lucide-react";

import type { Picture } from "../../api/client";
import { ToolButton } from "../../ui/Button";
import { NumberField, PLAIN } from "../../ui/fields";
import { sized, turned, type Place } from "../flat/PlaceTool";
import { useUnderlay, useUnits } from "../select";
import { useBench } from "../store";
import { lengths, Section } from "./parts";

/** Where a picture lies on the sheet, how large it is and how it is turned, by hand or by numbers. */
export function PicturePlace({ picture }: { picture: Picture }) {
  const underlay = useUnderlay();
  const units = useUnits();
  const tool = useBench((s) => s.tool);
  const { commit, setTool } = useBench.getState();
  if (!underlay) return null;
  const [x, y, width, height] = underlay.box;
  const put = (place: Place) => commit({ do: "place-picture", picture: picture.id, place });
  const moved = (dx: number, dy: number): Place => ({
    mm_per_px: underlay.mm_per_px,
    turn: underlay.turn,
    at: [underlay.at[0] + dx, underlay.at[1] + dy],
  });
  const shared = { notation: lengths(units), step: units === "mm" ? 1 : 25.4 / 16 };
  return (
    <Section name="Place on the sheet">
      <ToolButton
        className="mb-1.5 w-full"
        aria-pressed={tool === "place"}
        disabled={picture.locked}
        onClick={() => setTool(tool === "place" ? null : "place")}
      >
        <Move size={14} aria-hidden /> Move, size and turn by hand
      </ToolButton>
      <div className="space-y-1.5">
        <NumberField
          label="Left"
          {...shared}
          min={-5000}
          max={5000}
          value={x}
          onCommit={(mm) => put(moved(mm - x, 0))}
        />
        <NumberField
          label="Top"
          {...shared}
          min={-5000}
          max={5000}
          value={y}
          onCommit={(mm) => put(moved(0, mm - y))}
        />
        <NumberField
          label="Picture width"
          {...shared}
          min={0.1}
          max={5000}
          value={width}
          onCommit={(mm) => put(sized(underlay, [x, y], mm / width))}
        />
        <NumberField
          label="Turn"
          notation={{ ...PLAIN, unit: "°" }}
          min={-360}
          max={360}
          step={1}
          value={Number(underlay.turn.toFixed(3))}
          onCommit={(turn) => put(turned(underlay, [x + width / 2, y + height / 2], turn))}
        />
      </div>
    </Section>
  );
}
