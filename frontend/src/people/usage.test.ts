import { expect, test } from "vitest";

import { jobsWords, readyWords, usageWords, usedUp, type Usage } from "./usage";

const usage: Usage = {
  pieces: 1,
  megabytes: 0.2,
  minutes: 0,
  limits: { pieces: 10, megabytes: 100, jobs: 6, minutes: 60 },
};

test("what somebody uses is said in a line", () => {
  expect(usageWords(usage)).toBe("1 piece, under 1 MB, under a minute of computing today");
  expect(usageWords({ ...usage, pieces: 12, megabytes: 34.4, minutes: 2.6 })).toBe(
    "12 pieces, 34 MB, 3 min of computing today",
  );
});

test("what is used up is named", () => {
  expect(usedUp(usage)).toBeNull();
  expect(usedUp({ ...usage, pieces: 10, minutes: 61 })).toBe("Used up: pieces, computing");
});

test("what a machine is at is said in a line", () => {
  const machine = { name: "shed", ready: 2, running: 0, waiting: 0, longest: 0 };
  expect(readyWords(machine)).toBe("2 workers ready");
  expect(readyWords({ ...machine, ready: 0 })).toBe("workers are starting");
  expect(jobsWords(machine)).toBe("idle");
  expect(jobsWords({ ...machine, running: 2 })).toBe("2 running");
  expect(jobsWords({ ...machine, running: 2, waiting: 5, longest: 1.26 })).toBe(
    "2 running, 5 waiting, longest 1.3 s",
  );
});
