import type { Flat } from "../../../api/client";
import { usePicked } from "../../shape/useSheet";
import { Scraps } from "./Scraps";
import { ArtSize } from "./place/ArtSize";
import { Numbers } from "./place/Numbers";
import { OnTheBase } from "./place/OnTheBase";
import { Arrange } from "./place/Arrange";
import { Measure } from "./place/Measure";
import { Snapping } from "./place/Snapping";

export function PlacePart({ flat }: { flat: Flat }) {
  const picked = usePicked();
  return (
    <>
      <ArtSize flat={flat} />
      <Numbers picked={picked} />
      <OnTheBase picked={picked} flat={flat} />
      <Arrange picked={picked} />
      <Scraps />
      <Measure />
      <Snapping />
    </>
  );
}
