import { useQuery } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { useState } from "react";

import { api, data } from "../../api/client";
import { useBench } from "../store";
import { found } from "./motifs";
import { Section } from "./parts";

/** Silhouettes and line drawings that ship with Drelo; one that is picked is traced like any picture. */
export function Cabinet() {
  const takeMotif = useBench((s) => s.takeMotif);
  const [words, setWords] = useState("");
  const query = useQuery({
    queryKey: ["cabinet"],
    queryFn: ({ signal }) => data(api.GET("/api/cabinet", { signal })),
    staleTime: Infinity,
  });
  const all = query.data?.motifs ?? [];
  const shown = found(all, words);
  return (
    <Section name="Cabinet" side={query.data ? `${shown.length} of ${all.length}` : undefined}>
      <label className="border-hair bg-sheet focus-within:border-act mb-2 flex h-8 items-center gap-1.5 rounded-md border px-2">
        <Search size={14} className="text-soft" aria-hidden />
        <input
          type="search"
          value={words}
          placeholder="garden, animal, line drawing …"
          aria-label="Search the cabinet"
          className="w-full bg-transparent outline-none"
          onChange={(event) => setWords(event.target.value)}
        />
      </label>
      {query.isError ? (
        <p className="text-soft">The cabinet does not open. Load the page again.</p>
      ) : shown.length || query.isPending ? (
        <ul aria-label="Motifs" className="grid max-h-72 grid-cols-4 gap-1 overflow-y-auto">
          {shown.map((motif) => (
            <li key={motif.id}>
              <button
                type="button"
                title={motif.name}
                aria-label={`Take ${motif.name}`}
                onClick={() => void takeMotif(motif.id)}
                className="border-rule hover:border-act aspect-square w-full rounded border bg-white p-1"
              >
                <img
                  src={`/api/cabinet/${motif.id}?small=true`}
                  alt=""
                  className="h-full w-full object-contain"
                />
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <p className="text-soft">
          Nothing in the cabinet is called that. Try a plainer word: bird, tree, kitchen, weather.
        </p>
      )}
    </Section>
  );
}
