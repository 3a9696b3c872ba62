import type { Edit, Region } from "../../../api/client";
import { Choice, SliderField } from "../../../ui/fields";
import { formatLength, unitName } from "../../../ui/length";
import { FilamentPicker } from "../../Filaments";
import { useOverlaid } from "../../overlaid";
import { regionsEdit, useDocument, useProblemAt, useShown, useUnits } from "../../select";
import { useBench } from "../../store";
import { hasEdges, supportThickness } from "../../support";
import { lengths, Section } from "../parts";
import { EdgeControls } from "./EdgeControls";

type Way = "raised" | "sunk" | "flush" | "through";
const WAYS = [
  { value: "raised", name: "Raised" },
  { value: "sunk", name: "Sunk" },
  { value: "flush", name: "Flush" },
  { value: "through", name: "Through" },
] as const;
const RAISED = 1.2;
const LOWEST = 0.05;
const HIGHEST = 500;
const SLIDER_TOP = 10;

function wayOf(height: Region["height"]): Way {
  if (height === "through") return "through";
  return height > 0 ? "raised" : height < 0 ? "sunk" : "flush";
}

/** Height and filament of what is picked, or of everything for which nothing was decided. */
export function Heights({ regions }: { regions: readonly Region[] }) {
  const document = useDocument();
  const flat = useShown();
  const units = useUnits();
  const ids = new Set(regions.map((region) => region.id));
  const ofAll = useOverlaid("set-defaults");
  const ofThese = useOverlaid(
    "set-regions",
    ({ picked }) => picked.length === ids.size && picked.every((region) => ids.has(region.id)),
  );
  const { previewEdit, commit } = useBench.getState();
  const wrong = useProblemAt("height", "default_height");
  if (!document || !flat) return null;
  const none = regions.length === 0;
  const first = regions[0];
  const drafted: { height?: number | "through" | null } = none ? ofAll : ofThese;
  const height = drafted.height ?? first?.height ?? document.default_height;
  const mixed = drafted.height === undefined && regions.some((r) => r.height !== height);
  const way = mixed ? "" : wayOf(height);
  const filaments = new Set(none ? [document.default_filament] : regions.map((r) => r.filament));
  const edit = (change: { height?: number | "through" | null; filament?: string | null }): Edit =>
    none ? { do: "set-defaults", ...change } : regionsEdit(regions, change);
  const thickness = supportThickness(document);
  const sinks = thickness > 0;
  const size = typeof height === "number" ? Math.abs(height) : RAISED;
  const sign = way === "sunk" ? -1 : 1;
  const choose = (next: Way) => {
    if (next === "through") commit(edit({ height: "through" }));
    else if (next === "flush") commit(edit({ height: 0 }));
    else if (next === "sunk") commit(edit({ height: -Math.min(size || RAISED, thickness / 2) }));
    else commit(edit({ height: size || RAISED }));
  };
  const decided = regions.some((r) => r.decided_height || r.decided_filament);
  const name = none
    ? "Every region"
    : regions.length === 1
      ? (first?.name ?? "")
      : `${regions.length} regions`;
  return (
    <Section name={name} side={none ? "default" : regions.length === 1 ? "picked" : "picked together"}>
      {regions.length === 1 && first && <RegionName region={first} />}
      <Choice
        label="Raised or sunk"
        value={way}
        options={sinks ? WAYS : WAYS.filter((w) => w.value === "raised" || w.value === "through")}
        onChange={choose}
      />
      {(way === "raised" || way === "sunk" || mixed) && (
        <SliderField
          label={way === "sunk" ? "Depth" : "Height"}
          value={size}
          notation={lengths(units)}
          min={LOWEST}
          max={way === "sunk" ? Math.max(LOWEST, thickness - LOWEST) : HIGHEST}
          sliderMax={way === "sunk" ? Math.max(LOWEST, thickness - LOWEST) : SLIDER_TOP}
          problem={wrong}
          step={units === "mm" ? 0.05 : 25.4 / 256}
          onPreview={(value) => previewEdit(edit({ height: sign * value }))}
          onCommit={(value) => commit(edit({ height: sign * value }))}
        >
          {way === "sunk"
            ? `${formatLength(thickness - size, units)} ${unitName(units)} left underneath`
            : sinks
              ? "above the base"
              : "from the plate"}
        </SliderField>
      )}
      {(way === "raised" || way === "sunk") && hasEdges(document.form) && (
        <EdgeControls
          edge={first?.edge ?? document.default_edge}
          onChange={(edge) => commit(none ? { do: "set-defaults", edge } : regionsEdit(regions, { edge }))}
        />
      )}
      {way !== "through" && way !== "sunk" && (
        <FilamentPicker
          label="Filament"
          value={filaments.size === 1 ? ([...filaments][0] ?? "") : ""}
          onChange={(filament) => commit(edit({ filament }))}
        />
      )}
      {none ? (
        <p className="text-soft mt-1 text-[12.5px]">
          Pick regions to give them a height and filament of their own.
        </p>
      ) : (
        decided && (
          <button
            type="button"
            className="text-act mt-1 text-xs font-semibold hover:underline"
            onClick={() => commit(edit({ height: null, filament: null }))}
          >
            back to the default
          </button>
        )
      )}
    </Section>
  );
}

function RegionName({ region }: { region: Region }) {
  const { commit } = useBench.getState();
  return (
    <label className="mb-2 grid grid-cols-[1fr_150px] items-center">
      Name
      <input
        key={region.id + region.name}
        defaultValue={region.name}
        maxLength={120}
        className="border-hair bg-sheet focus:border-act h-8 min-w-0 rounded-md border px-2 outline-none"
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== region.name) commit(regionsEdit([region], { name }));
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
    </label>
  );
}
