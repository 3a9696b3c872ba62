import { expect, it } from "vitest";

import { moved } from "./useSettled";

it("brings a point drawn for one viewport to where another has it", () => {
  const from = { scale: 4, x: 60, y: 30 };
  const to = { scale: 10, x: -5, y: 12 };
  const [a = 0, , , d = 0, e = 0, f = 0] =
    moved(from, to)
      .match(/-?[\d.]+/g)
      ?.map(Number) ?? [];
  const sheet = [7.5, -2.25] as const;
  const drawn = [sheet[0] * from.scale + from.x, sheet[1] * from.scale + from.y] as const;
  expect(a * drawn[0] + e).toBeCloseTo(sheet[0] * to.scale + to.x, 9);
  expect(d * drawn[1] + f).toBeCloseTo(sheet[1] * to.scale + to.y, 9);
});
