import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Bench } from "../api/client";
import { useBench } from "./store";

/** The server beyond the wire: the client takes hold of `fetch` when it is loaded, and writes addresses without a host. */
const { server } = vi.hoisted(() => {
  const answering = vi.fn<(request: Request) => Promise<Response>>();
  const Plain = globalThis.Request;
  globalThis.fetch = (request) => answering(request as Request);
  globalThis.Request = class extends Plain {
    constructor(address: RequestInfo | URL, options?: RequestInit) {
      super(typeof address === "string" ? new URL(address, "http://drelo.test") : address, options);
    }
  };
  return { server: answering };
});

/** A bench as the server would send it; only what the store looks at is real. */
function bench(revision: number, ids: readonly string[] = ["a", "b"]): Bench {
  return {
    piece: {
      id: "p",
      name: "Pear",
      revision,
      can_undo: revision > 1,
      can_redo: false,
      updated: "2026-01-01T00:00:00+00:00",
      document: { source: null, units: "mm" },
    },
    flat: {
      regions: ids.map((id, i) => ({
        id,
        area: 10 + i,
        mark: { anchor: [10 * i + 5, 5], box: [10 * i, 0, 10 * i + 10, 10] },
      })),
    },
  } as unknown as Bench;
}

const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

const saved = () => vi.waitFor(() => expect(useBench.getState().saved).toBe("saved"));

describe("the bench", () => {
  beforeEach(() => {
    useBench.getState().open(bench(1));
  });
  afterEach(() => {
    useBench.getState().close();
    server.mockReset();
  });

  it("picks one region, more with a key held, and none beside them", () => {
    const { pick } = useBench.getState();
    pick("a", false);
    pick("b", true);
    expect(useBench.getState().picked).toEqual(["a", "b"]);
    pick("a", true);
    expect(useBench.getState().picked).toEqual(["b"]);
    pick(null, true);
    expect(useBench.getState().picked).toEqual(["b"]);
    pick(null, false);
    expect(useBench.getState().picked).toEqual([]);
  });

  it("puts the tool down when another stop is gone to", () => {
    useBench.getState().setTool("crop");
    useBench.getState().setStop("Trace");
    expect(useBench.getState().tool).toBeNull();
  });

  it("sends edits one after another, each on the revision before", async () => {
    const revisions: number[] = [];
    server.mockImplementation(async (request) => {
      const body = (await request.json()) as { revision: number };
      revisions.push(body.revision);
      return json(bench(body.revision + 1));
    });
    const { commit } = useBench.getState();
    commit({ do: "set-units", units: "inch" });
    commit({ do: "set-units", units: "mm" });
    await saved();
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(3));
    expect(revisions).toEqual([1, 2]);
    expect(useBench.getState().draft).toBeNull();
  });

  it("shows why an edit was refused and keeps what stood", async () => {
    server.mockResolvedValue(json({ title: "No", status: 422, detail: "Too high.", field: "height" }, 422));
    useBench.getState().commit({ do: "set-defaults", height: 900 });
    await vi.waitFor(() => expect(useBench.getState().problem?.text).toBe("Too high."));
    expect(useBench.getState().problem?.field).toBe("height");
    expect(useBench.getState().piece?.revision).toBe(1);
    expect(useBench.getState().draft).toBeNull();
  });

  it("takes over what stands when somebody else was quicker", async () => {
    server.mockResolvedValue(
      json({ title: "Conflict", status: 409, detail: "Changed elsewhere.", bench: bench(7) }, 409),
    );
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(7));
  });

  it("waits for a lost connection and sends the edit again", async () => {
    vi.useFakeTimers();
    server.mockRejectedValueOnce(new TypeError("Failed to fetch")).mockResolvedValue(json(bench(2)));
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await vi.waitFor(() => expect(useBench.getState().saved).toBe("waiting"));
    await vi.advanceTimersByTimeAsync(2000);
    vi.useRealTimers();
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(2));
    expect(server).toHaveBeenCalledTimes(2);
  });

  it("keeps picked what lies where it lay, under its new name", async () => {
    useBench.getState().pick("b", false);
    server.mockResolvedValue(json(bench(2, ["x", "y"])));
    useBench.getState().commit({ do: "set-trace", level: 0.4 });
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(2));
    expect(useBench.getState().picked).toEqual(["y"]);
  });
});
