import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Search, X } from "lucide-react";
import { useRef, useState } from "react";

import { api, data } from "../../../api/client";
import { Button, SignButton } from "../../../ui/Button";
import { useNotices } from "../../../ui/notices";
import { idsOf, seed } from "../../shape/objects";
import { usePicked } from "../../shape/useSheet";
import { useBench } from "../../store";
import { Fold } from "../parts";

/** Motifs that the maker kept: to be placed in any piece. */
export function Shelf() {
  const queries = useQueryClient();
  const picked = usePicked();
  const file = useRef<HTMLInputElement>(null);
  const piece = useBench((s) => s.piece);
  const [name, setName] = useState("");
  const [words, setWords] = useState("");
  const query = useQuery({
    queryKey: ["motifs"],
    queryFn: ({ signal }) => data(api.GET("/api/motifs", { signal })),
  });
  const again = () => void queries.invalidateQueries({ queryKey: ["motifs"] });
  const fail = (error: Error) => useNotices.getState().refuse(error.message);
  const keep = useMutation({
    mutationFn: () => {
      if (!piece) throw new Error("No piece is open.");
      return data(
        api.POST("/api/motifs", {
          body: {
            piece: piece.id,
            revision: piece.revision,
            picked: idsOf(picked),
            name: name.trim() || "Motif",
          },
        }),
      );
    },
    onSuccess: () => {
      setName("");
      again();
    },
    onError: fail,
  });
  const bring = useMutation({
    mutationFn: (chosen: File) =>
      data(
        api.POST("/api/motifs/file", {
          body: { drawing: chosen.name },
          bodySerializer: () => {
            const form = new FormData();
            form.append("drawing", chosen);
            return form;
          },
        }),
      ),
    onSuccess: again,
    onError: fail,
  });
  const drop = useMutation({
    mutationFn: (kept: string) => data(api.DELETE("/api/motifs/{kept}", { params: { path: { kept } } })),
    onSuccess: again,
    onError: fail,
  });
  const place = (motif: string) =>
    useBench.getState().make((now, headers) =>
      data(
        api.POST("/api/pieces/{piece_id}/motif", {
          params: { path: { piece_id: now.id } },
          body: { revision: now.revision, motif, seed: seed() },
          headers,
        }),
      ),
    );
  const shown = (query.data?.motifs ?? []).filter((m) =>
    m.name.toLowerCase().includes(words.trim().toLowerCase()),
  );
  return (
    <Fold name="Motifs" side={query.data ? String(query.data.motifs.length) : undefined}>
      <div className="mb-1.5 flex gap-1.5">
        <input
          aria-label="Name of the motif"
          placeholder="name"
          value={name}
          maxLength={120}
          className="bg-sheet border-hair h-8 w-full min-w-0 rounded-md border px-2 outline-none"
          onChange={(event) => setName(event.target.value)}
        />
        <Button disabled={!picked.length || keep.isPending} onClick={() => keep.mutate()}>
          Keep the pick
        </Button>
      </div>
      {(query.data?.motifs.length ?? 0) > 6 && (
        <label className="border-hair bg-sheet focus-within:border-act mb-1.5 flex h-8 items-center gap-1.5 rounded-md border px-2">
          <Search size={14} className="text-soft" aria-hidden />
          <input
            type="search"
            aria-label="Search the motifs"
            value={words}
            className="w-full bg-transparent outline-none"
            onChange={(event) => setWords(event.target.value)}
          />
        </label>
      )}
      {shown.length ? (
        <ul aria-label="Kept motifs" className="space-y-0.5">
          {shown.map((motif) => (
            <li key={motif.id} className="flex items-center gap-1.5">
              <button
                type="button"
                aria-label={`Place ${motif.name}`}
                className="hover:bg-act-wash flex min-w-0 grow items-center gap-2 rounded-md px-1 py-1 text-left"
                onClick={() => place(motif.id)}
              >
                <svg
                  viewBox={`0 0 ${motif.width || 1} ${motif.height || 1}`}
                  className="bg-sheet size-8 shrink-0 p-0.5"
                  aria-hidden
                >
                  <path d={motif.path} fillRule="evenodd" fill="var(--ink)" />
                </svg>
                <span className="truncate">{motif.name}</span>
              </button>
              <a
                href={`/api/motifs/${motif.id}.svg`}
                download
                className="text-act px-1 text-xs font-semibold hover:underline"
              >
                SVG
              </a>
              <SignButton label={`Remove ${motif.name}`} onClick={() => drop.mutate(motif.id)}>
                <X size={14} />
              </SignButton>
            </li>
          ))}
        </ul>
      ) : (
        <p className="text-soft text-[12.5px]">
          Pick outlines and keep them here; they can be placed in any piece.
        </p>
      )}
      <input
        ref={file}
        type="file"
        accept=".svg,.dxf"
        aria-label="Motif file"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) bring.mutate(chosen);
          event.target.value = "";
        }}
      />
      <Button className="mt-1.5 w-full" onClick={() => file.current?.click()}>
        Keep an SVG or DXF file …
      </Button>
    </Fold>
  );
}
