import { useEffect, useRef, useState } from "react";
import type { BufferGeometry, Mesh } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

import { api, data, Refused, type Edit } from "../../api/client";
import { Latest } from "../../api/latest";
import { useBench } from "../store";

export type Run = { region: string; colour: string; start: number; count: number };
export type Solid = { geometry: BufferGeometry; runs: Run[]; size: [number, number, number] };

type Wish = { piece: string; revision: number; draft: Edit | null };

const loader = new GLTFLoader();

async function fetchSolid(wish: Wish, signal: AbortSignal): Promise<Solid> {
  const bytes = await data<ArrayBuffer>(
    wish.draft
      ? api.POST("/api/pieces/{piece_id}/solid", {
          params: { path: { piece_id: wish.piece } },
          body: { revision: wish.revision, edit: wish.draft },
          signal,
          parseAs: "arrayBuffer",
        })
      : api.GET("/api/pieces/{piece_id}/solid/{revision}", {
          params: { path: { piece_id: wish.piece, revision: wish.revision } },
          signal,
          parseAs: "arrayBuffer",
        }),
  );
  const model = await loader.parseAsync(bytes, "");
  let found: Mesh | null = null;
  model.scene.traverse((node) => {
    if ((node as Mesh).isMesh) found = node as Mesh;
  });
  if (!found) throw new Error("The solid came without a mesh.");
  const mesh = found as Mesh;
  const extras = mesh.userData as { runs: Run[]; size: [number, number, number] };
  mesh.geometry.computeVertexNormals();
  mesh.geometry.computeBoundingBox();
  return { geometry: mesh.geometry, runs: extras.runs, size: extras.size };
}

/** The solid as it stands, or as the hand would have it; the old one stays until the new one is there. */
export function useSolid(): { solid: Solid | null; problem: string | null } {
  const id = useBench((s) => (s.piece?.document.source ? s.piece.id : null));
  const revision = useBench((s) => s.piece?.revision ?? null);
  const draft = useBench((s) => s.draft);
  const [solid, setSolid] = useState<Solid | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const latest = useRef<Latest<Wish, Solid> | null>(null);
  useEffect(() => {
    latest.current = new Latest<Wish, Solid>(
      fetchSolid,
      (next) => {
        setProblem(null);
        // Benchmarks read how long the way from hand to screen is.
        performance.mark("drelo-solid");
        setSolid((before) => {
          before?.geometry.dispose();
          return next;
        });
      },
      (error, wish) => {
        // A draft that cannot be is told beside its control; the solid stays as it was.
        if (!wish.draft && error instanceof Error && !(error instanceof Refused && error.superseded))
          setProblem(error.message);
      },
    );
    return () => latest.current?.cancel();
  }, []);
  useEffect(() => {
    if (id === null || revision === null) {
      latest.current?.cancel();
      return;
    }
    latest.current?.ask({ piece: id, revision, draft });
  }, [id, revision, draft]);
  return { solid: id === null ? null : solid, problem };
}
