import { expect, test } from "vitest";

import type { Document } from "../api/client";
import { hasEdges, hasHeights, supportName, supportThickness } from "./support";

const document = (form: Document["form"], shape = "outline") =>
  ({
    form,
    base: { shape, thickness: 3 },
    stamp: { thickness: 4 },
    nameplate: { thickness: null },
  }) as unknown as Document;

test("letters of a nameplate stand on its backing, regions of a relief on the base", () => {
  expect(supportThickness(document("nameplate"))).toBe(2.4);
  expect(supportThickness({ ...document("nameplate"), nameplate: { thickness: 1.2 } } as Document)).toBe(1.2);
  expect(supportThickness(document("relief"))).toBe(3);
  expect(supportThickness(document("relief", "none"))).toBe(0);
  expect(supportThickness(document("stamp"))).toBe(4);
  expect(supportThickness(document("cutter"))).toBe(0);
});

test("what has heights has a ladder, and only a cutter stands on nothing", () => {
  expect((["relief", "stamp", "cutter", "nameplate"] as const).filter(hasHeights)).toEqual([
    "relief",
    "nameplate",
  ]);
  expect(hasEdges("nameplate")).toBe(false);
  expect((["relief", "stamp", "cutter", "nameplate"] as const).map(supportName)).toEqual([
    "Base",
    "Plate",
    null,
    "Plate",
  ]);
});
