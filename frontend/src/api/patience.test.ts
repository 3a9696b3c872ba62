import { expect, test, vi } from "vitest";
import { patient } from "./patience";

const busy = (seconds = "0.01") => new Response("{}", { status: 503, headers: { "Retry-After": seconds } });
const request = (init?: RequestInit) => new Request("http://127.0.0.1/api/pieces", init);

test("a request is sent again, body and all, while the server is busy", async () => {
  const answers = [busy(), busy(), new Response("done")];
  const bodies: string[] = [];
  const fetch = vi.fn(async (sent: Request) => {
    bodies.push(await sent.text());
    return answers.shift() as Response;
  });
  const answer = await patient(fetch)(request({ method: "POST", body: "edit" }));
  expect(await answer.text()).toBe("done");
  expect(bodies).toEqual(["edit", "edit", "edit"]);
});

test("after a while it is told that the server stays busy", async () => {
  const fetch = vi.fn(async () => busy("0.02"));
  const answer = await patient(fetch, 100)(request());
  expect(answer.status).toBe(503);
  expect(fetch.mock.calls.length).toBeGreaterThan(1);
});

test("other answers come at once, those among them that name no time", async () => {
  for (const status of [200, 409, 422, 500, 503]) {
    const fetch = vi.fn(async () => new Response("x", { status }));
    expect((await patient(fetch)(request())).status).toBe(status);
    expect(fetch).toHaveBeenCalledOnce();
  }
});

test("what is given up meanwhile is not sent again", async () => {
  const hand = new AbortController();
  const fetch = vi.fn(async () => busy("5"));
  const call = patient(fetch)(request({ signal: hand.signal }));
  setTimeout(() => hand.abort(), 10);
  await expect(call).rejects.toMatchObject({ name: "AbortError" });
  expect(fetch).toHaveBeenCalledOnce();
});
