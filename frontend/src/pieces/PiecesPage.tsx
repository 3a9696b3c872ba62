import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ImagePlus, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, beginWithFiles, beginWithPicture, data, type Schemas } from "../api/client";
import { recalled } from "../bench/remembered";
import { useShape } from "../bench/shape/state";
import { Button, SignButton } from "../ui/Button";
import { areRecipe, DRAWINGS, isDrawing, RECIPES, titleOf } from "../ui/kinds";
import type { Units } from "../ui/length";
import { Mark } from "../ui/Mark";
import { useNotices } from "../ui/notices";
import { DropVeil, useIncoming } from "../ui/useIncoming";
import { useKeeps, useMakes, usePerson } from "../people/me";
import { PieceCard } from "./PieceCard";

/** New pieces are in the units that the maker used last. */
const unitsOfNew = () => recalled<Units>("units", "mm");

type Card = Schemas["PieceCard"];

const LIST = ["pieces"];
const PREFETCH_MS = 300;

export function PiecesPage() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { say, refuse } = useNotices();
  const person = usePerson();
  const makes = useMakes();
  const keeps = useKeeps();
  const chooser = useRef<HTMLInputElement>(null);
  const [sought, setSought] = useState("");
  const [picked, setPicked] = useState<readonly string[]>([]);
  const pieces = useQuery({
    queryKey: LIST,
    queryFn: async ({ signal }) => (await data(api.GET("/api/pieces", { signal }))).pieces,
  });
  const refresh = () => queries.invalidateQueries({ queryKey: LIST });
  const failed = (error: Error) => refuse(error.message);

  const begin = useMutation({
    mutationFn: (files: readonly File[]) =>
      areRecipe(files) ? beginWithFiles(files) : beginWithPicture(files[0] as File, unitsOfNew()),
    onSuccess: (bench) => {
      queries.setQueryData(["piece", bench.piece.id], bench);
      return navigate(`/bench/${bench.piece.id}`);
    },
    onError: failed,
  });
  const make = useMutation({
    mutationFn: (name: string) => data(api.POST("/api/pieces", { body: { name, units: unitsOfNew() } })),
    onSuccess: (piece) => navigate(`/bench/${piece.id}`),
    onError: failed,
  });
  const rename = useMutation({
    mutationFn: ({ id, name }: { id: string; name: string }) =>
      data(api.PATCH("/api/pieces/{piece_id}", { params: { path: { piece_id: id } }, body: { name } })),
    onSuccess: refresh,
    onError: failed,
  });
  const duplicate = useMutation({
    mutationFn: (id: string) =>
      data(api.POST("/api/pieces/{piece_id}/duplicate", { params: { path: { piece_id: id } } })),
    onSuccess: refresh,
    onError: failed,
  });
  const restore = useMutation({
    mutationFn: (id: string) =>
      data(api.POST("/api/pieces/{piece_id}/restore", { params: { path: { piece_id: id } } })),
    onSuccess: refresh,
    onError: failed,
  });
  const remove = useMutation({
    mutationFn: (card: Card) =>
      data(api.DELETE("/api/pieces/{piece_id}", { params: { path: { piece_id: card.id } } })),
    onSuccess: async (_, card) => {
      say(`“${card.name}” is deleted.`, { name: "Undo", run: () => restore.mutate(card.id) });
      await refresh();
    },
    onError: failed,
  });

  const lay = useMutation({
    mutationFn: (ids: readonly string[]) =>
      data(api.POST("/api/beds", { body: { things: ids.map((piece) => ({ piece })) } })),
    onSuccess: (plan) => {
      queries.setQueryData(["bed-plan", plan.id], plan);
      return navigate(`/beds/${plan.id}`);
    },
    onError: failed,
  });

  // The bench and its solid view are fetched while the maker looks at the pieces.
  useEffect(() => {
    const wait = setTimeout(() => {
      // What is cut off here is loaded when it is wanted.
      import("../bench/BenchPage").catch(() => undefined);
      import("../bench/solid/SolidView").catch(() => undefined);
    }, PREFETCH_MS);
    return () => clearTimeout(wait);
  }, []);
  const take = (files: readonly File[]) => {
    const [file] = files;
    if (!file || !makes) return;
    if (areRecipe(files) || !isDrawing(file)) return begin.mutate(files);
    // The bench shows a drawing's true size before it is placed.
    useShape.getState().set({ part: "Draw", brought: file });
    make.mutate(titleOf(file));
  };
  const over = useIncoming(take);
  const list = pieces.data ?? [];
  const here = picked.filter((id) => list.some((card) => card.id === id));
  const shown = list.filter((card) => card.name.toLowerCase().includes(sought.trim().toLowerCase()));

  return (
    <div className="flex h-full flex-col">
      <header className="border-rule flex min-h-14 shrink-0 flex-wrap items-center gap-x-6 gap-y-2 border-b px-6 py-2">
        <Mark />
        <h1 className="text-xl">Pieces</h1>
        <span className="grow" />
        <Link to="/beds" className="text-soft hover:text-ink hover:underline">
          Beds
        </Link>
        <Link to="/printer" className="text-soft hover:text-ink hover:underline">
          Printer
        </Link>
        <Link to="/printers" className="text-soft hover:text-ink hover:underline">
          Printer settings
        </Link>
        {keeps && (
          <Link to="/storage" className="text-soft hover:text-ink hover:underline">
            Storage
          </Link>
        )}
        {person?.role === "keeper" && (
          <Link to="/people" className="text-soft hover:text-ink hover:underline">
            People
          </Link>
        )}
        {person && (
          <Link to="/account" className="text-soft hover:text-ink max-w-36 truncate hover:underline">
            {person.title}
          </Link>
        )}
        {list.length > 0 && (
          <input
            type="search"
            aria-label="Find a piece by name"
            placeholder="Find by name"
            value={sought}
            onChange={(event) => setSought(event.target.value)}
            className="border-hair bg-sheet h-8 w-48 rounded-md border px-2.5"
          />
        )}
        {makes && (
          <>
            <Button onClick={() => make.mutate("New piece")} disabled={make.isPending}>
              New empty piece
            </Button>
            <Button kind="act" onClick={() => chooser.current?.click()} disabled={begin.isPending}>
              <ImagePlus size={16} aria-hidden /> Start with a file
            </Button>
          </>
        )}
        <input
          ref={chooser}
          type="file"
          accept={`image/*,${DRAWINGS},${RECIPES}`}
          multiple
          aria-label="Picture, drawing, archive or recipe to start with"
          className="hidden"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            event.target.value = "";
            take(files);
          }}
        />
      </header>
      <main className="grow overflow-y-auto px-6 py-5">
        {pieces.isError && (
          <p
            role="alert"
            className="border-error bg-error-wash mb-4 max-w-xl rounded-r-md border-l-4 px-4 py-2"
          >
            {pieces.error.message}{" "}
            <button type="button" className="font-semibold underline" onClick={() => void pieces.refetch()}>
              Try again
            </button>
          </p>
        )}
        {pieces.isSuccess && list.length === 0 && !makes && (
          <p className="text-soft mt-[14vh] text-center text-base">Nothing is shown to you yet.</p>
        )}
        {pieces.isSuccess && list.length === 0 && makes && (
          <section className="mx-auto mt-[14vh] max-w-md text-center">
            <h2 className="mb-2 text-3xl">The bench is clear</h2>
            <p className="text-soft mb-5 text-base">
              Drop a silhouette, a logo or a drawing anywhere on this page, or paste a screen grab. You see
              its outline and a solid of it at once. SVG and DXF drawings come in as they are, and an archive
              of a piece as the piece that it was.
            </p>
            <Button kind="act" onClick={() => chooser.current?.click()}>
              Choose a file
            </Button>
          </section>
        )}
        {list.length > 0 && makes && (
          <p className="text-soft mb-4">
            Drop a picture, an SVG or DXF drawing or an archive anywhere to start a new piece, or paste a
            picture.
          </p>
        )}
        {list.length > 0 && shown.length === 0 && <p>No piece has “{sought}” in its name.</p>}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(268px,1fr))] gap-x-6 gap-y-7">
          {shown.map((card) => (
            <PieceCard
              key={card.id}
              card={card}
              isPicked={picked.includes(card.id)}
              onPick={() =>
                setPicked((before) =>
                  before.includes(card.id) ? before.filter((id) => id !== card.id) : [...before, card.id],
                )
              }
              onRename={(name) => rename.mutate({ id: card.id, name })}
              onDuplicate={() => duplicate.mutate(card.id)}
              onDelete={() => remove.mutate(card)}
            />
          ))}
        </ul>
      </main>
      {here.length > 0 && (
        <section
          aria-label="Picked pieces"
          className="bg-ink text-paper fixed bottom-5 left-1/2 z-20 flex -translate-x-1/2 items-center gap-3 rounded-full py-1.5 pr-1.5 pl-5 shadow-lg"
        >
          <span>{here.length === 1 ? "1 piece picked" : `${here.length} pieces picked`}</span>
          <Button kind="act" disabled={lay.isPending} onClick={() => lay.mutate(here)}>
            {lay.isPending ? "Packing …" : "Put on a bed"}
          </Button>
          <SignButton label="Pick nothing" className="text-paper!" onClick={() => setPicked([])}>
            <X size={16} />
          </SignButton>
        </section>
      )}
      {over && <DropVeil text="Drop it to start a piece" />}
      {begin.isPending && (
        <p
          role="status"
          className="bg-ink text-paper fixed bottom-5 left-1/2 -translate-x-1/2 rounded-full px-5 py-2"
        >
          {areRecipe(begin.variables) ? "Making the piece …" : "Tracing the picture …"}
        </p>
      )}
    </div>
  );
}
