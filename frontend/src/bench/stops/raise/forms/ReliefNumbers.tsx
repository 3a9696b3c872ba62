import { SwitchField } from "../../../../ui/fields";
import type { Document } from "../../../../api/client";
import { Fold } from "../../parts";
import { Length } from "./Length";
import { commitNumbers } from "./setForm";

type Relief = NonNullable<Document["relief"]>;

export function ReliefNumbers({ numbers }: { numbers: Relief }) {
  const put = (change: Partial<Relief>) => commitNumbers("relief", numbers, change);
  return (
    <Fold name="Rim, inlays, top">
      <div className="space-y-1.5">
        <Length
          label="Inlay depth"
          field="relief.inlay"
          value={numbers.inlay}
          min={0.02}
          max={100}
          onChange={(inlay) => put({ inlay })}
        />
        <Length
          label="Rim width"
          field="relief.rim_width"
          value={numbers.rim_width}
          max={100}
          step={0.5}
          onChange={(rim_width) => put({ rim_width })}
        />
        {numbers.rim_width > 0 && (
          <Length
            label="Rim height"
            field="relief.rim_height"
            value={numbers.rim_height}
            min={0.02}
            max={100}
            onChange={(rim_height) => put({ rim_height })}
          />
        )}
      </div>
      <SwitchField
        label="Flat top for a cup"
        checked={numbers.flat_top}
        onChange={(flat_top) => put({ flat_top })}
      />
      <SwitchField
        label="Trim what reaches past the base"
        checked={numbers.clip}
        onChange={(clip) => put({ clip })}
      />
    </Fold>
  );
}
