import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Bench, Edit } from "../../api/client";
import { useNotices } from "../../ui/notices";
import { useBench } from ".";

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
      document: { pictures: [], drawn: [], base: { shape: "outline" }, units: "mm" },
    },
    flat: {
      things: [],
      underlays: [],
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
    vi.stubGlobal("requestAnimationFrame", (draw: () => void) => setTimeout(draw));
    useBench.getState().open(bench(1));
  });
  afterEach(() => {
    useBench.getState().close();
    server.mockReset();
    vi.unstubAllGlobals();
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

  it("previews a large picture coarsely while the hand moves, exactly when it rests, and a small one exactly", async () => {
    const asked: { coarse: boolean; level: number }[] = [];
    server.mockImplementation(async (request) => {
      const body = (await request.json()) as { coarse: boolean; edit: { level: number } };
      asked.push({ coarse: body.coarse, level: body.edit.level });
      return json(bench(1).flat);
    });
    const large = bench(1);
    useBench
      .getState()
      .open({ ...large, flat: { ...large.flat, underlays: [{ id: "s", pixels: [2000, 1000] }] as never } });
    useBench.getState().previewEdit({ do: "set-trace", picture: "s", level: 0.4 });
    await vi.waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]).toEqual({ coarse: true, level: 0.4 });
    await vi.waitFor(() => expect(asked).toHaveLength(2));
    expect(asked[1]).toEqual({ coarse: false, level: 0.4 });
    useBench
      .getState()
      .open({ ...large, flat: { ...large.flat, underlays: [{ id: "s", pixels: [200, 100] }] as never } });
    useBench.getState().previewEdit({ do: "set-trace", picture: "s", level: 0.6 });
    await vi.waitFor(() => expect(asked).toHaveLength(3));
    expect(asked[2]).toEqual({ coarse: false, level: 0.6 });
  });

  it("puts areas, wipe and rough spots down when another piece is opened", () => {
    const { setArea, setWipe, setSpot, open } = useBench.getState();
    setArea("a1");
    setWipe(0.4, "t1");
    setSpot(3);
    open({ ...bench(1), piece: { ...bench(1).piece, id: "q" } });
    const { area, wipe, compared, spot } = useBench.getState();
    expect([area, wipe, compared, spot]).toEqual([null, null, null, null]);
  });

  it("moves the wipe without forgetting what is compared", () => {
    useBench.getState().setWipe(0.5, "t1");
    useBench.getState().setWipe(0.7);
    expect(useBench.getState().compared).toBe("t1");
    useBench.getState().setWipe(null, null);
    expect(useBench.getState().compared).toBeNull();
  });

  it("takes a motif of the cabinet and goes to Trace", async () => {
    server.mockImplementation(async (request) => {
      expect(new URL(request.url).pathname).toBe("/api/pieces/p/cabinet");
      expect(await request.json()).toEqual({ motif: "hen", revision: 1, how: "picture", replaces: null });
      return json(bench(2));
    });
    useBench.getState().setStop("Gather");
    await useBench.getState().takeMotif("hen", { how: "picture" });
    expect(useBench.getState().stop).toBe("Trace");
    expect(useBench.getState().piece?.revision).toBe(2);
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
    server.mockImplementation(() =>
      Promise.resolve(
        json({ title: "Conflict", status: 409, detail: "Changed elsewhere.", bench: bench(7) }, 409),
      ),
    );
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(7));
    await vi.waitFor(() => expect(server).toHaveBeenCalledTimes(5), 3000);
    await saved();
    expect(useNotices.getState().list.at(-1)).toMatchObject({ kind: "refused", text: "Changed elsewhere." });
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

  it("makes an edit on what another window has made in the meantime, and says so", async () => {
    const revisions: number[] = [];
    server.mockImplementation(async (request) => {
      const { revision } = (await request.json()) as { revision: number };
      revisions.push(revision);
      if (revision === 1)
        return json({ title: "Conflict", status: 409, detail: "Changed elsewhere.", bench: bench(7) }, 409);
      return json(bench(revision + 1));
    });
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(8));
    expect(revisions).toEqual([1, 7]);
    expect(useNotices.getState().list.at(-1)?.text).toContain("Both changes are kept");
  });

  it("asks whose change is to stand where both changed the same", async () => {
    const told = (after: number) => [
      { path: "base.thickness", what: "Base thickness", how: "mm", before: 2, after },
    ];
    server.mockImplementation(async (request) => {
      const { revision } = (await request.json()) as { revision: number };
      if (revision !== 1) return json(bench(revision + 1));
      const met = { collision: told(3), mine: told(4), by: "Mira" };
      return json({ title: "Conflict", status: 409, detail: "Changed.", bench: bench(7), ...met }, 409);
    });
    const { commit, settle } = useBench.getState();
    commit({ do: "set-base", thickness: 4 });
    await vi.waitFor(() => expect(useBench.getState().collisions).toHaveLength(1));
    expect(useBench.getState().collisions[0]).toMatchObject({ by: "Mira", theirs: told(3), mine: told(4) });
    expect(useBench.getState().piece?.revision).toBe(7);
    settle(true);
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(8));
    expect(useBench.getState().collisions).toEqual([]);
  });

  it("drops an undo that would take back somebody else's change", async () => {
    server.mockImplementation(() =>
      Promise.resolve(
        json({ title: "Conflict", status: 409, detail: "Changed elsewhere.", bench: bench(7) }, 409),
      ),
    );
    useBench.getState().undo();
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(7));
    await saved();
    expect(server).toHaveBeenCalledTimes(1);
  });

  it("keeps the edits that wait when one before them is refused, and says that one was not kept", async () => {
    const made: unknown[] = [];
    server.mockImplementation(async (request) => {
      const { edit, revision } = (await request.json()) as { edit: Edit; revision: number };
      if (edit.do === "set-defaults")
        return json({ title: "No", status: 422, detail: "Too high.", field: "height" }, 422);
      made.push(edit.do);
      return json(bench(revision + 1));
    });
    const { commit } = useBench.getState();
    commit({ do: "set-units", units: "inch" });
    commit({ do: "set-defaults", height: 900 });
    commit({ do: "set-base", thickness: 3 });
    expect(useBench.getState().waiting.map((edit) => edit.do)).toEqual([
      "set-units",
      "set-defaults",
      "set-base",
    ]);
    await vi.waitFor(() => expect(useBench.getState().saved).toBe("refused"));
    expect(made).toEqual(["set-units", "set-base"]);
    expect(useBench.getState().problem?.text).toBe("Too high.");
    commit({ do: "set-units", units: "mm" });
    await saved();
    expect(useBench.getState().problem).toBeNull();
  });

  it("sends an edit again with the same key when only its answer was lost", async () => {
    const keys: (string | null)[] = [];
    server.mockImplementation((request) => {
      keys.push(request.headers.get("Idempotency-Key"));
      return keys.length === 1
        ? Promise.reject(new TypeError("Failed to fetch"))
        : Promise.resolve(json(bench(2)));
    });
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await vi.waitFor(() => expect(useBench.getState().piece?.revision).toBe(2), 4000);
    expect(keys[0]).toMatch(/^[0-9a-f]{32}$/);
    expect(keys[1]).toBe(keys[0]);
  });

  it("sends what waits for a piece to that piece, when another one is on the bench by then", async () => {
    const sent: string[] = [];
    let answer: () => void = () => undefined;
    const held = new Promise<void>((go) => (answer = go));
    server.mockImplementation(async (request) => {
      sent.push(new URL(request.url).pathname);
      const { revision } = (await request.json()) as { revision: number };
      await held;
      return json(bench(revision + 1));
    });
    const { commit, close, open } = useBench.getState();
    commit({ do: "set-units", units: "inch" });
    commit({ do: "set-units", units: "mm" });
    close();
    open({ ...bench(40), piece: { ...bench(40).piece, id: "q" } });
    answer();
    await vi.waitFor(() => expect(sent).toHaveLength(2), 3000);
    expect(sent).toEqual(["/api/pieces/p/edits", "/api/pieces/p/edits"]);
    expect(useBench.getState().piece?.revision).toBe(40);
  });

  it("leaves the draft in the hand when an edit before it is answered", async () => {
    server.mockImplementation(async (request) => {
      const body = (await request.json()) as { revision: number; waiting?: Edit[] };
      return new URL(request.url).pathname.endsWith("/preview")
        ? json(bench(1).flat)
        : json(bench(body.revision + 1));
    });
    const { commit, previewEdit } = useBench.getState();
    commit({ do: "set-units", units: "inch" });
    previewEdit({ do: "set-base", thickness: 5 });
    await saved();
    expect(useBench.getState().draft).toEqual({ do: "set-base", thickness: 5 });
    expect(useBench.getState().waiting).toEqual([]);
  });

  it("shows what another window made, and keeps out of it while its own changes are on their way", async () => {
    server.mockImplementation((request) =>
      Promise.resolve(json(new URL(request.url).pathname.endsWith("/head") ? bench(9).piece : bench(9))),
    );
    await useBench.getState().catchUp();
    expect(useBench.getState().piece?.revision).toBe(9);
    server.mockReset();
    server.mockImplementation(() => Promise.resolve(json(bench(10))));
    useBench.getState().commit({ do: "set-units", units: "inch" });
    await useBench.getState().catchUp();
    expect(server).not.toHaveBeenCalled();
    await saved();
  });
});
