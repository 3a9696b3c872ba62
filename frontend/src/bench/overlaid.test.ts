import { expect, test } from "vitest";

import type { Edit } from "../api/client";
import { overlaid } from "./overlaid";

const base = (change: object) => ({ do: "set-base", ...change }) as Edit;

test("fields that wait stay as they were typed when another one is drafted", () => {
  const waiting = [base({ thickness: 3 }), base({ margin: 2 })];
  expect(overlaid("set-base", waiting, base({ margin: 4 }))).toMatchObject({ thickness: 3, margin: 4 });
});

test("the latest one counts, and other kinds do not", () => {
  const waiting = [
    base({ thickness: 3 }),
    base({ thickness: 5 }),
    { do: "set-units", units: "inch" } as Edit,
  ];
  expect(overlaid("set-base", waiting, null)).toMatchObject({ thickness: 5 });
  expect(overlaid("set-size", waiting, null)).toEqual({});
});

test("a draft that was committed is not put on twice, out of its order", () => {
  const first = base({ thickness: 3 });
  expect(overlaid("set-base", [first, base({ thickness: 5 })], first)).toMatchObject({ thickness: 5 });
});

test("numbers of a form are put together", () => {
  const form = (change: object) => ({ do: "set-form", ...change }) as Edit;
  const found = overlaid(
    "set-form",
    [form({ stamp: { plate: 3 } })],
    form({ stamp: { grip: "knob" }, form: "stamp" }),
  );
  expect(found).toMatchObject({ form: "stamp", stamp: { plate: 3, grip: "knob" } });
});
