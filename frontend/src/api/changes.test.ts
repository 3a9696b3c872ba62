import { describe, expect, it } from "vitest";

import { withPart } from "./changes";

type Row = { id: string; name: string };
const rows: Row[] = [
  { id: "a", name: "pear" },
  { id: "b", name: "leaf" },
  { id: "c", name: "stem" },
];

describe("a part that changed", () => {
  it("leaves every other row the same object", () => {
    const before = { rows, width: 4 };
    const after = withPart(before, {
      fields: {},
      rows: { rows: { order: null, changed: [{ id: "b", name: "big leaf" } as Row] } },
    });
    expect(after.rows.map((r) => r.name)).toEqual(["pear", "big leaf", "stem"]);
    expect(after.rows[0]).toBe(rows[0]);
    expect(after.width).toBe(4);
  });

  it("takes the order that is sent: rows go, come and change places", () => {
    const after = withPart(
      { rows },
      {
        fields: {},
        rows: { rows: { order: [0, 2, ["d", "a"]], changed: [{ id: "d", name: "seed" } as Row] } },
      },
    );
    expect(after.rows.map((r) => r.name)).toEqual(["seed", "pear", "stem"]);
  });

  it("takes fields whole, empty ones as well", () => {
    const after = withPart(
      { underlay: { x: 1 } as { x: number } | null, remarks: ["loose"] },
      { fields: { underlay: null, remarks: [] }, rows: {} },
    );
    expect(after).toEqual({ underlay: null, remarks: [] });
  });
});
