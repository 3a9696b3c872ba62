import { create } from "zustand";

import { hand } from "./hand";
import { Queues } from "./queues";
import { served } from "./served";
import type { BenchState } from "./state";
import { tools } from "./tools";
import { views } from "./views";

export { STOPS, type Stop } from "./stops";

/** The bench, put together of its parts. */
export const useBench = create<BenchState>((...a) => {
  const queues = new Queues(a[0], a[1]);
  return { ...served(queues)(...a), ...hand(queues)(...a), ...tools(...a), ...views(...a) };
});
