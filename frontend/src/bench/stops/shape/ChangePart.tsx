import { usePicked } from "../../shape/useSheet";
import { NodeTools } from "./change/NodePart";
import { Combining } from "./change/CombinePart";
import { Border } from "./change/BorderPart";
import { Ties } from "./change/TiePart";
import { Lines } from "./change/LinePart";
import { Loop } from "./change/LoopPart";

export function ChangePart() {
  const picked = usePicked();
  const closed = picked.filter((i) => i.area > 0);
  return (
    <>
      <NodeTools />
      <Combining picked={closed} />
      <Border picked={closed} />
      <Ties picked={closed} />
      <Lines picked={picked} />
      <Loop picked={closed} />
    </>
  );
}
