import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Link, useParams } from "react-router";

import { patiently } from "../api/loading";
import { api, data } from "../api/client";
import { Mark } from "../ui/Mark";
import { DropVeil, useIncoming } from "../ui/useIncoming";
import { Boundary } from "../ui/Boundary";
import { Crosshair } from "./Crosshair";
import { Contents } from "./contents/Contents";
import { takeFiles } from "./incoming";
import { useShape } from "./shape/state";
import { useBenchKeys } from "./keys/useBenchKeys";
import { StatusBar } from "./StatusBar";
import { useBench } from "./store";
import { useOtherWindows } from "./useOtherWindows";
import { TopBar } from "./TopBar";
import { Tuning } from "./Tuning";
import { Views } from "./Views";

const CollisionDialog = lazy(patiently(() => import("./CollisionDialog")));

export default function BenchPage() {
  const { pieceId = "" } = useParams();
  const queries = useQueryClient();
  const { open, close, setStop } = useBench.getState();
  const piece = useBench((s) => s.piece);
  const collision = useBench((s) => s.collisions[0]);
  const query = useQuery({
    queryKey: ["piece", pieceId],
    queryFn: ({ signal }) =>
      data(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: pieceId } }, signal })),
    refetchOnWindowFocus: false,
    // A piece that was just begun comes with its bench; otherwise every opening asks anew.
    staleTime: 2000,
    gcTime: 2000,
    retry: false,
  });
  useEffect(() => {
    if (!query.data) return;
    open(query.data);
    if (useShape.getState().brought) setStop("Shape");
  }, [query.data, open, setStop]);
  useEffect(
    () => () => {
      close();
      void queries.invalidateQueries({ queryKey: ["pieces"] });
    },
    [close, queries],
  );
  useEffect(() => {
    document.title = piece ? `${piece.name} · Drelo` : "Drelo";
    return () => {
      document.title = "Drelo";
    };
  }, [piece]);
  const over = useIncoming((files, at) => void takeFiles(files, at));
  useBenchKeys();
  useOtherWindows();

  if (query.isError)
    return (
      <main className="grid h-full place-items-center text-center">
        <div>
          <Mark />
          <h1 className="mt-6 mb-2 text-2xl">This piece cannot be opened</h1>
          <p className="text-soft mb-5">{query.error.message}</p>
          <Link to="/" className="text-act font-semibold underline">
            To all pieces
          </Link>
        </div>
      </main>
    );
  if (!piece || piece.id !== pieceId)
    return (
      <p role="status" className="text-soft grid h-full place-items-center">
        Opening the piece …
      </p>
    );
  return (
    <div className="relative grid h-full min-w-[920px] grid-cols-[212px_minmax(0,1fr)_284px] grid-rows-[56px_minmax(0,1fr)_30px] select-none">
      <Boundary what="The upper bar" bar>
        <TopBar />
      </Boundary>
      <Boundary what="The contents">
        <Contents />
      </Boundary>
      <Boundary what="The views">
        <Views />
      </Boundary>
      <Boundary what="The settings">
        <Tuning />
      </Boundary>
      <Boundary what="The lower bar" bar>
        <StatusBar />
      </Boundary>
      <Crosshair />
      {collision && (
        <Suspense>
          <CollisionDialog collision={collision} />
        </Suspense>
      )}
      {over && <DropVeil text="Drop a picture to trace it, or a drawing to place it" />}
    </div>
  );
}
