import { useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { jobsWords, readyWords } from "./usage";

/** So often (ms) it is asked while the page is looked at. */
const LOOK_MS = 2000;

/** What is worked out just now and what waits, machine by machine. */
export function AtWork() {
  const { data: work } = useQuery({
    queryKey: ["work"],
    queryFn: ({ signal }) => data(api.GET("/api/work", { signal })),
    refetchInterval: LOOK_MS,
  });
  if (!work) return null;
  return (
    <section aria-label="At work">
      <h2 className="border-rule mb-1 border-b pb-1.5 text-lg">At work</h2>
      {work.machines.length === 0 ? (
        <p role="alert" className="text-error py-1.5">
          No machine has joined, so nothing can be worked out. Start one with ./drelo worker.
        </p>
      ) : (
        <ul>
          {work.machines.map((machine) => (
            <li key={machine.name} className="border-rule flex gap-4 border-b py-1.5 tabular-nums">
              <span className="grow">{machine.name || "This machine"}</span>
              <span className="text-soft">{readyWords(machine)}</span>
              <span className="w-56 text-right">{jobsWords(machine)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
