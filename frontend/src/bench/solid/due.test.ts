import { expect, test, vi } from "vitest";

import { solidsFirst, whileDue } from "./due";

test("nothing waits while no solid is due", async () => {
  await expect(solidsFirst(1e6)).resolves.toBeUndefined();
});

test("what may come later waits for the last solid that is due, also for one that fails", async () => {
  const order: string[] = [];
  let came: (value: string) => void = () => {};
  let failed: (reason: Error) => void = () => {};
  const one = whileDue(new Promise<string>((resolve) => (came = resolve)));
  const other = whileDue(new Promise<string>((_, reject) => (failed = reject)));
  const later = solidsFirst(1e6).then(() => order.push("later"));
  came("solid");
  order.push(await one);
  failed(new Error("none"));
  await expect(other).rejects.toThrow("none");
  await later;
  expect(order).toEqual(["solid", "later"]);
});

test("it does not wait for ever", async () => {
  vi.useFakeTimers();
  void whileDue(new Promise(() => {}));
  const later = solidsFirst(150);
  vi.advanceTimersByTime(150);
  await expect(later).resolves.toBeUndefined();
  vi.useRealTimers();
});
