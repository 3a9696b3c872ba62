import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignStartHorizontal,
  AlignStartVertical,
  ChevronDown,
  ChevronsDown,
  ChevronsUp,
  ChevronUp,
  FlipHorizontal2,
  FlipVertical2,
  StretchHorizontal,
  StretchVertical,
} from "lucide-react";
import { Button, SignButton } from "../../../../ui/Button";
import { SwitchField } from "../../../../ui/fields";
import { duplicate, group, transform } from "../../../shape/changes";
import { idsOf, seed, type Item } from "../../../shape/objects";
import { useBench } from "../../../store";
import { Section } from "../../parts";

const ALIGN = [
  ["left", "Left edges on one line", AlignStartVertical],
  ["centre", "Middles one above the other", AlignCenterVertical],
  ["right", "Right edges on one line", AlignEndVertical],
  ["top", "Top edges on one line", AlignStartHorizontal],
  ["middle", "Middles on one level", AlignCenterHorizontal],
  ["bottom", "Bottom edges on one line", AlignEndHorizontal],
  ["spread-across", "Spread evenly across", StretchVertical],
  ["spread-down", "Spread evenly down", StretchHorizontal],
] as const;

export function Arrange({ picked }: { picked: readonly Item[] }) {
  const { commit } = useBench.getState();
  const drawn = picked.filter((i) => i.thing);
  const ids = idsOf(drawn);
  const repeated = drawn.filter((i) => i.thing?.follow);
  const closed = drawn.filter((i) => i.area > 0);
  const order = (to: "top" | "bottom" | "up" | "down") => commit({ do: "order-drawn", ids, to });
  const locked = drawn.length > 0 && drawn.every((i) => i.thing?.locked);
  return (
    <Section name="Arrange">
      <div className="mb-1 flex flex-wrap" role="group" aria-label="Align">
        {ALIGN.map(([how, label, Sign]) => (
          <SignButton
            key={how}
            label={label}
            disabled={picked.length < 2}
            onClick={() => commit({ do: "align", seed: seed(), picked: idsOf(picked), how })}
          >
            <Sign size={16} />
          </SignButton>
        ))}
        <SignButton
          label="Mirror left to right"
          disabled={!picked.length}
          onClick={() => transform(picked, { flip: "x" })}
        >
          <FlipHorizontal2 size={16} />
        </SignButton>
        <SignButton
          label="Mirror top to bottom"
          disabled={!picked.length}
          onClick={() => transform(picked, { flip: "y" })}
        >
          <FlipVertical2 size={16} />
        </SignButton>
        <SignButton label="To the top" disabled={!ids.length} onClick={() => order("top")}>
          <ChevronsUp size={16} />
        </SignButton>
        <SignButton label="One up" disabled={!ids.length} onClick={() => order("up")}>
          <ChevronUp size={16} />
        </SignButton>
        <SignButton label="One down" disabled={!ids.length} onClick={() => order("down")}>
          <ChevronDown size={16} />
        </SignButton>
        <SignButton label="To the bottom" disabled={!ids.length} onClick={() => order("bottom")}>
          <ChevronsDown size={16} />
        </SignButton>
      </div>
      <div className="grid grid-cols-2 gap-1.5">
        <Button className="px-1! text-[12.5px]" disabled={!picked.length} onClick={() => duplicate(picked)}>
          Duplicate
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!picked.length}
          onClick={() => commit({ do: "lift", seed: seed(), picked: idsOf(picked) })}
        >
          Convert to nodes
        </Button>
        <Button className="px-1! text-[12.5px]" disabled={ids.length < 2} onClick={() => group(picked, true)}>
          Group
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!drawn.some((i) => i.thing?.group)}
          onClick={() => group(picked, false)}
        >
          Ungroup
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!ids.length}
          onClick={() => commit({ do: "mark-drawn", ids, locked: !locked })}
        >
          {locked ? "Unlock" : "Lock"}
        </Button>
        <Button
          className="px-1! text-[12.5px]"
          disabled={!ids.length}
          onClick={() => commit({ do: "mark-drawn", ids, hidden: true })}
        >
          Hide
        </Button>
        <Button
          className="col-span-2 px-1! text-[12.5px]"
          disabled={!repeated.length}
          title="What is mirrored or repeated becomes free outlines; it is repeated no longer."
          onClick={() => commit({ do: "make-plain", picked: idsOf(repeated) })}
        >
          Stop repeating
        </Button>
      </div>
      <SwitchField
        label="A hole through everything"
        disabled={!closed.length}
        checked={closed.length > 0 && closed.every((i) => i.thing?.hole)}
        onChange={(hole) => commit({ do: "mark-drawn", ids: idsOf(closed), hole })}
      />
    </Section>
  );
}
