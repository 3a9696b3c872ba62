import { describe, expect, it } from "vitest";

import { Latest } from "./latest";

function setup() {
  const waiting: { value: number; answer: (fail?: boolean) => void }[] = [];
  const done: number[] = [];
  const failed: number[] = [];
  const latest = new Latest<number, number>(
    (value) =>
      new Promise((resolve, reject) =>
        waiting.push({ value, answer: (fail) => (fail ? reject(new Error("no")) : resolve(value)) }),
      ),
    (result) => done.push(result),
    (_, value) => failed.push(value),
  );
  const next = async (fail = false) => {
    waiting.shift()?.answer(fail);
    await new Promise((resolve) => setTimeout(resolve));
  };
  return { latest, waiting, done, failed, next };
}

describe("the newest wish wins", () => {
  it("runs one at a time and skips what was overtaken", async () => {
    const { latest, waiting, done, next } = setup();
    for (const wish of [1, 2, 3, 4]) latest.ask(wish);
    expect(waiting.map((w) => w.value)).toEqual([1]);
    await next();
    expect(waiting.map((w) => w.value)).toEqual([4]);
    await next();
    expect(done).toEqual([1, 4]);
  });
  it("goes on after a failure", async () => {
    const { latest, done, failed, next } = setup();
    latest.ask(1);
    latest.ask(2);
    await next(true);
    await next();
    expect([failed, done]).toEqual([[1], [2]]);
  });
  it("drops what was cancelled", async () => {
    const { latest, done, next } = setup();
    latest.ask(1);
    latest.ask(2);
    latest.cancel();
    await next();
    await next();
    expect(done).toEqual([]);
  });
});
