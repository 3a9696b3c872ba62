import { expect, test } from "vitest";

import type { Document, Flat } from "../../api/client";
import type { WeakPlace } from "../stops/raise/useWeakSpots";
import { mendOf } from "./mends";
import type { Report, Trouble } from "./state";

const document = (change: object = {}) =>
  ({
    form: "relief",
    base: { shape: "outline", thickness: 2 },
    printing: { manner: { brim: 0, walls: 2 } },
    ...change,
  }) as unknown as Document;
const flat = {
  regions: [
    { id: "a", height: 1.1, mark: {} },
    { id: "b", height: 1.2, mark: {} },
  ],
} as unknown as Flat;
const report = { corner: [10, 0] } as unknown as Report;
const trouble = (change: object) =>
  ({ at: [15, 5], z: 3, first: 1, last: 1, value: 0.2, limit: 0.26, ...change }) as unknown as Trouble;
const spot = (change: object) =>
  ({
    kind: "thin wall",
    at_solid: [5.2, 5, 1],
    radius: 0.5,
    mend: { do: "thicken" },
    ...change,
  }) as unknown as WeakPlace;

test("a wall that is not printed is thickened where the design has it", () => {
  const found = mendOf(trouble({ kind: "not printed" }), report, document(), flat, [
    spot({ at_solid: [30, 5, 1], mend: { do: "thicken", seed: "far" } }),
    spot({}),
  ]);
  expect(found).toEqual({ name: "Thicken it", edit: { do: "thicken" } });
});

test("a spot of another kind, or far away, mends nothing", () => {
  const places = [spot({ kind: "tight gap" }), spot({ at_solid: [40, 40, 0] })];
  expect(mendOf(trouble({ kind: "not printed" }), report, document(), flat, places)).toBeNull();
});

test("what ends between two layers is set to the nearer one", () => {
  const found = mendOf(
    trouble({ kind: "between layers", value: 3.1, limit: 3.2 }),
    report,
    document(),
    flat,
    [],
  );
  expect(found?.edit).toMatchObject({ do: "set-regions", height: 1.2 });
  expect((found?.edit as { picked: { id: string }[] }).picked.map((p) => p.id)).toEqual(["a"]);
});

test("what hardly holds gets a brim, once", () => {
  const hold = trouble({ kind: "little hold" });
  expect(mendOf(hold, report, document(), flat, [])?.edit).toMatchObject({ manner: { brim: 5, walls: 2 } });
  const has = document({ printing: { manner: { brim: 8 } } });
  expect(mendOf(hold, report, has, flat, [])).toBeNull();
});
