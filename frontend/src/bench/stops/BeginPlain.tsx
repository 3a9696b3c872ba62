import { Circle, Square } from "lucide-react";

import { Button } from "../../ui/Button";
import { useBench } from "../store";
import { Section } from "./parts";

/** A piece can begin with a plain block or disc; art comes onto it later. */
export function BeginPlain() {
  const { commit, setStop } = useBench.getState();
  return (
    <Section name="Or start without art">
      <div className="grid grid-cols-2 gap-1.5">
        <Button
          onClick={() => {
            commit({
              do: "set-base",
              shape: "block",
              block: [80, 60],
              at: [0, 0],
              thickness: 6,
              corner_radius: 0,
            });
            setStop("Raise");
          }}
        >
          <Square size={15} aria-hidden /> Plain block
        </Button>
        <Button
          onClick={() => {
            commit({ do: "set-base", shape: "circle", diameter: 95, at: [0, 0], thickness: 3 });
            setStop("Raise");
          }}
        >
          <Circle size={15} aria-hidden /> Plain disc
        </Button>
      </div>
    </Section>
  );
}
