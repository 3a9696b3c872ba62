import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Dialog } from "radix-ui";

import { wholeFlat } from "../api/changes";
import { api, data, type Document, type Flat, type Piece, type Schemas } from "../api/client";
import { Button } from "../ui/Button";
import { inWords } from "../versions/words";
import { boxOf, StillDrawing } from "./flat/StillDrawing";
import { fitted } from "./flat/viewport";
import { useBench } from "./store";
import type { Collision } from "./store/state";

const WIDTH = 300;
const HEIGHT = 200;

/** Two people changed the same: what both made of it, side by side, and whose is to stand. */
export default function CollisionDialog({ collision }: { collision: Collision }) {
  const piece = useBench((s) => s.piece);
  const flat = useBench((s) => s.flat);
  const settle = useBench((s) => s.settle);
  const mine = useMine(piece, flat, collision);
  if (!piece || !flat) return null;
  const { document } = piece;
  const who = collision.by ?? "Another window";
  return (
    <Dialog.Root open onOpenChange={(open) => !open && settle(false)}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[#0006]" />
        <Dialog.Content className="bg-paper fixed top-1/2 left-1/2 z-50 w-[700px] max-w-[96vw] -translate-x-1/2 -translate-y-1/2 rounded-lg p-5 shadow-xl">
          <Dialog.Title className="text-xl">Both of you changed the same</Dialog.Title>
          <Dialog.Description className="text-soft mt-1 mb-4">
            {who} was quicker, so that change stands. Keep it, or put yours in its place.
          </Dialog.Description>
          <div className="grid grid-cols-2 gap-4">
            <Side title={collision.by ?? "The other window"} told={collision.theirs} document={document}>
              <Small flat={flat} document={document} name="As it stands" />
            </Side>
            <Side title="You" told={collision.mine} document={document}>
              {mine.data && <Small flat={mine.data} document={document} name="With your change" />}
              {mine.isPending && <Words text="Working it out …" />}
              {mine.error && <Words text={mine.error.message} />}
            </Side>
          </div>
          <div className="mt-5 flex justify-end gap-2">
            <Button onClick={() => settle(false)}>Keep {collision.by ? "theirs" : "the other"}</Button>
            <Button kind="act" onClick={() => settle(true)}>
              Use mine
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The flat view as the change would make it of what stands now. */
function useMine(piece: Piece | null, flat: Flat | null, { edit }: Collision) {
  const change = piece && edit(piece.document);
  return useQuery({
    queryKey: ["collision", piece?.id, piece?.revision, change],
    queryFn: async ({ signal }) => {
      if (!piece || !flat || !change) throw new Error("No piece is open.");
      const answer = await data(
        api.POST("/api/pieces/{piece_id}/preview", {
          params: { path: { piece_id: piece.id } },
          body: {
            revision: piece.revision,
            waiting: [],
            edit: change,
            coarse: false,
            changes_only: true,
          },
          signal,
        }),
      );
      return wholeFlat(answer, flat);
    },
    staleTime: Infinity,
    retry: false,
  });
}

function Side({
  title,
  told,
  document,
  children,
}: {
  title: string;
  told: readonly Schemas["Told"][];
  document: Document;
  children: ReactNode;
}) {
  return (
    <section aria-label={title}>
      <h3 className="mb-1.5 font-semibold">{title}</h3>
      <div className="bg-sheet border-rule grid h-[200px] place-items-center overflow-hidden rounded-md border">
        {children}
      </div>
      <ul className="mt-2 text-[13px]">
        {told.map((one, at) => (
          <li key={at}>{inWords(one, document.units)}</li>
        ))}
      </ul>
    </section>
  );
}

const Words = ({ text }: { text: string }) => <p className="text-soft px-4 text-center">{text}</p>;

function Small({ flat, document, name }: { flat: Flat; document: Document; name: string }) {
  const box = boxOf(flat);
  if (!box) return <Words text="Nothing is on the sheet." />;
  const view = fitted(box, WIDTH, HEIGHT, 0, 14);
  return (
    <svg role="img" aria-label={name} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="size-full">
      <g transform={`translate(${view.x} ${view.y}) scale(${view.scale})`}>
        <StillDrawing flat={flat} document={document} />
      </g>
    </svg>
  );
}
