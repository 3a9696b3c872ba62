import { expect, test, vi } from "vitest";

import { patiently } from "./loading";

test("a part that could not be loaded is asked for again", async () => {
  const load = vi
    .fn<() => Promise<string>>()
    .mockRejectedValueOnce(new TypeError())
    .mockResolvedValue("part");
  await expect(patiently(load, 3, 1)()).resolves.toBe("part");
  expect(load).toHaveBeenCalledTimes(2);
});

test("one that never comes is given up in the end", async () => {
  const load = vi.fn<() => Promise<string>>().mockRejectedValue(new TypeError("gone"));
  await expect(patiently(load, 3, 1)()).rejects.toThrow("gone");
  expect(load).toHaveBeenCalledTimes(3);
});
