import { beforeEach, describe, expect, it } from "vitest";

import type { Bench } from "../api/client";
import { openLine, usePenState, type Line } from "./pen";
import { useBench } from "./store";

const line = (id: string, stretches: number, closed = false): Line => ({
  id,
  name: "Line 1",
  start: [0, 0],
  stretches: Array.from({ length: stretches }, (_, i) => ({ kind: "edge", to: [i, 1] as [number, number] })),
  closed,
});

const opened = (...pen: Line[]) =>
  useBench.getState().open({
    piece: { id: "p", document: { pictures: [{ id: "s", pen }] } },
    flat: { regions: [] },
  } as unknown as Bench);

describe("the pen", () => {
  beforeEach(() => {
    usePenState.getState().setLine(null);
    opened();
  });

  it("goes on with an open line, not with a closed one", () => {
    usePenState.getState().setLine("p1");
    expect(openLine([line("p1", 2)], usePenState.getState())?.id).toBe("p1");
    expect(openLine([line("p1", 2, true)], usePenState.getState())).toBeNull();
    expect(openLine(undefined, usePenState.getState())).toBeNull();
  });

  it("knows the last click before the server does", () => {
    usePenState.getState().setPending(line("p1", 3));
    expect(usePenState.getState().line).toBe("p1");
    expect(openLine([line("p1", 2)], usePenState.getState())?.stretches).toHaveLength(3);
  });

  it("believes the document again as soon as that has the click", () => {
    usePenState.getState().setPending(line("p1", 3));
    opened(line("p1", 2));
    expect(usePenState.getState().pending?.stretches).toHaveLength(3);
    opened(line("p1", 3));
    expect(usePenState.getState().pending).toBeNull();
    expect(openLine([line("p1", 3)], usePenState.getState())?.stretches).toHaveLength(3);
  });

  it("follows when the line was undone altogether", () => {
    usePenState.getState().setPending(line("p1", 1));
    opened(line("p2", 1));
    expect(usePenState.getState().pending).toBeNull();
  });

  it("is done with a line that was closed", () => {
    usePenState.getState().setPending(line("p1", 3, true));
    expect(usePenState.getState().line).toBeNull();
    expect(openLine([], usePenState.getState())).toBeNull();
  });
});
