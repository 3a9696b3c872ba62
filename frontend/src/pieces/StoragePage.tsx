import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import { api, data, type Schemas } from "../api/client";
import { Button } from "../ui/Button";
import { Modal } from "../ui/Modal";
import { useNotices } from "../ui/notices";
import { Page } from "./Page";
import { inBytes } from "../ui/bytes";

const STORAGE = ["storage"];
type Storage = Schemas["StorageOut"];

/** What takes how much room on the disk, and what can be emptied. */
export default function StoragePage() {
  const queries = useQueryClient();
  const { say, refuse } = useNotices();
  const storage = useQuery({
    queryKey: STORAGE,
    queryFn: ({ signal }) => data(api.GET("/api/storage", { signal })),
  });
  const show = (next: Storage) => queries.setQueryData(STORAGE, next);
  const failed = (error: Error) => refuse(error.message);
  const empty = useMutation({
    mutationFn: (what: "trash" | "derived") => data(api.POST("/api/storage/empty", { body: { what } })),
    onSuccess: (next, what) => {
      show(next);
      say(
        what === "trash"
          ? "The trash is empty."
          : "The files are gone; they are made again when you need them.",
      );
    },
    onError: failed,
  });
  const restore = useMutation({
    mutationFn: (id: string) =>
      data(api.POST("/api/pieces/{piece_id}/restore", { params: { path: { piece_id: id } } })),
    onSuccess: async (piece) => {
      say(`“${piece.name}” is back among your pieces.`);
      await queries.invalidateQueries({ queryKey: STORAGE });
      await queries.invalidateQueries({ queryKey: ["pieces"] });
    },
    onError: failed,
  });
  const [asking, setAsking] = useState(false);
  const found = storage.data;
  return (
    <Page title="Storage">
      <div className="mx-auto max-w-3xl">
        {storage.isError && (
          <p role="alert" className="border-error bg-error-wash rounded-r-md border-l-4 px-4 py-2">
            {storage.error.message}
          </p>
        )}
        {storage.isPending && (
          <p role="status" className="text-soft">
            Adding it up …
          </p>
        )}
        {found && (
          <>
            <Bar storage={found} />
            <dl className="border-rule mt-6 border-t">
              <Row
                name="Pieces"
                colour="bg-act"
                count={plural(found.pieces.count, "piece")}
                bytes={found.pieces.bytes}
                hint="Every step of every piece, so you can undo it weeks later."
              />
              <Row
                name="Pictures and fonts"
                colour="bg-ink"
                count={plural(found.assets.count, "file")}
                bytes={found.assets.bytes}
                hint="What you brought in. A file that no piece uses any more is removed after a day."
              />
              <Row
                name="Files that can be made again"
                colour="bg-remark"
                count={plural(found.derived.count, "file")}
                bytes={found.derived.bytes}
                hint="Exports, thumbnails and previews, kept up to 512 MB so they need not be made twice."
              >
                <Button
                  disabled={!found.derived.count || empty.isPending}
                  onClick={() => empty.mutate("derived")}
                >
                  Clear
                </Button>
              </Row>
              <Row
                name="Trash"
                colour="bg-error"
                count={plural(found.trash.count, "piece")}
                bytes={found.trash.bytes}
                hint="Deleted pieces stay for 30 days, then they are gone for good."
              >
                <Modal
                  title="Empty the trash?"
                  className="w-[380px]"
                  open={asking}
                  onOpenChange={setAsking}
                  trigger={<Button disabled={!found.trash.count || empty.isPending}>Empty</Button>}
                >
                  <p className="mb-4">
                    {found.trash.count === 1
                      ? "The deleted piece will be gone for good. This cannot be undone."
                      : `All ${found.trash.count} deleted pieces will be gone for good. This cannot be undone.`}
                  </p>
                  <Button
                    kind="act"
                    onClick={() => {
                      setAsking(false);
                      empty.mutate("trash");
                    }}
                  >
                    Empty the trash
                  </Button>
                </Modal>
              </Row>
            </dl>
            <Deleted storage={found} restore={(id) => restore.mutate(id)} />
          </>
        )}
      </div>
    </Page>
  );
}

/** One bar of all that is kept, each kind by its share. */
function Bar({ storage }: { storage: Storage }) {
  const kinds = [
    { name: "pieces", bytes: storage.pieces.bytes, colour: "bg-act" },
    { name: "pictures and fonts", bytes: storage.assets.bytes, colour: "bg-ink" },
    { name: "files that can be made again", bytes: storage.derived.bytes, colour: "bg-remark" },
    { name: "trash", bytes: storage.trash.bytes, colour: "bg-error" },
  ];
  const all = kinds.reduce((sum, kind) => sum + kind.bytes, 0);
  const words = kinds.map((kind) => `${kind.name} ${inBytes(kind.bytes)}`).join(", ");
  return (
    <>
      <p className="mb-2 flex items-baseline justify-between">
        <span className="font-head text-3xl tabular-nums">{inBytes(all)}</span>
        {storage.free !== null && <span className="text-soft">{inBytes(storage.free)} free on the disk</span>}
      </p>
      <div role="img" aria-label={words} className="bg-hair flex h-3 gap-px overflow-hidden rounded">
        {kinds.map((kind) => (
          <span key={kind.name} className={kind.colour} style={{ flex: `${kind.bytes} 0 0` }} />
        ))}
      </div>
    </>
  );
}

function Row({
  name,
  colour,
  count,
  bytes,
  hint,
  children,
}: {
  name: string;
  colour: string;
  count: string;
  bytes: number;
  hint: string;
  children?: ReactNode;
}) {
  return (
    <div className="border-rule grid grid-cols-[1fr_90px_90px_84px] items-center gap-4 border-b py-3">
      <dt>
        <span className="flex items-center gap-2 font-semibold">
          <span aria-hidden className={`size-2.5 rounded-full ${colour}`} />
          {name}
        </span>
        <span className="text-soft block pl-[18px] text-[13px]">{hint}</span>
      </dt>
      <dd className="text-right tabular-nums">{count}</dd>
      <dd className="text-right font-semibold tabular-nums">{inBytes(bytes)}</dd>
      <dd className="justify-self-end">{children}</dd>
    </div>
  );
}

/** Deleted pieces that can still be brought back. */
function Deleted({ storage, restore }: { storage: Storage; restore: (id: string) => void }) {
  if (!storage.deleted.length) return null;
  return (
    <section className="mt-8">
      <h2 className="mb-2 text-lg">In the trash</h2>
      <ul>
        {storage.deleted.map((piece) => (
          <li
            key={piece.id}
            className="border-rule grid grid-cols-[1fr_auto_auto] items-center gap-4 border-b py-2"
          >
            <span className="truncate">{piece.name}</span>
            <span className="text-soft text-[13px]">
              until {new Date(piece.until).toLocaleDateString("en-GB", { day: "numeric", month: "long" })}
            </span>
            <Button onClick={() => restore(piece.id)} aria-label={`Bring back ${piece.name}`}>
              Bring back
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

const plural = (count: number, of: string) =>
  `${count.toLocaleString("en-GB")} ${of}${count === 1 ? "" : "s"}`;
