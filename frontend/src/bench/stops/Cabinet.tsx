import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { LibraryBig, Search } from "lucide-react";
import { useDeferredValue, useState } from "react";

import { api, data, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Modal } from "../../ui/Modal";
import { Choice } from "../../ui/fields";
import { recalled, remember } from "../remembered";
import { seed } from "../shape/objects";
import { useBench } from "../store";
import { fitNext } from "../signals";

type Motif = Schemas["MotifOut"];
type Kind = "" | "silhouette" | "line drawing" | "own";
type How = "outlines" | "picture";

const KINDS: readonly { value: "all" | Exclude<Kind, "">; name: string }[] = [
  { value: "all", name: "All" },
  { value: "silhouette", name: "Silhouettes" },
  { value: "line drawing", name: "Line drawings" },
  { value: "own", name: "Your motifs" },
];
const HOWS = [
  { value: "outlines", name: "as exact outlines" },
  { value: "picture", name: "as a picture to trace" },
] as const;

/** Opens the cabinet: silhouettes and line drawings found by words, and the maker's own motifs. */
export function Cabinet() {
  const [open, setOpen] = useState(false);
  return (
    <Modal
      title="Cabinet"
      open={open}
      onOpenChange={setOpen}
      className="flex h-[86vh] w-[860px] flex-col"
      trigger={
        <Button className="mb-5 w-full">
          <LibraryBig size={16} aria-hidden /> Search the cabinet
        </Button>
      }
    >
      <Drawer close={() => setOpen(false)} />
    </Modal>
  );
}

function Drawer({ close }: { close: () => void }) {
  const [words, setWords] = useState("");
  const [kind, setKind] = useState<Kind>("");
  const [how, setHow] = useState<How>(() => recalled<How>("cabinet", "outlines"));
  const asked = useDeferredValue(words.trim());
  return (
    <>
      <div className="mb-3 grid grid-cols-[1fr_auto] gap-2">
        <label className="border-hair bg-sheet focus-within:border-act flex h-9 items-center gap-2 rounded-md border px-2.5">
          <Search size={15} className="text-soft" aria-hidden />
          <input
            autoFocus
            type="search"
            value={words}
            placeholder="bird, garden, tool, dragon …"
            aria-label="Search the cabinet"
            className="w-full bg-transparent outline-none"
            onChange={(event) => setWords(event.target.value)}
          />
        </label>
        <Choice
          label="Kind of drawing"
          value={kind || "all"}
          options={KINDS}
          onChange={(next) => setKind(next === "all" ? "" : next)}
        />
      </div>
      {kind === "own" ? (
        <OwnMotifs words={asked} close={close} />
      ) : (
        <Found
          words={asked}
          kind={kind}
          how={how}
          setHow={(next) => {
            setHow(next);
            remember("cabinet", next);
          }}
          close={close}
        />
      )}
    </>
  );
}

function Found({
  words,
  kind,
  how,
  setHow,
  close,
}: {
  words: string;
  kind: "" | "silhouette" | "line drawing";
  how: How;
  setHow: (how: How) => void;
  close: () => void;
}) {
  const takeMotif = useBench((s) => s.takeMotif);
  const [over, setOver] = useState<Motif | null>(null);
  const query = useInfiniteQuery({
    queryKey: ["cabinet", words, kind],
    queryFn: ({ signal, pageParam }) =>
      data(api.GET("/api/cabinet", { params: { query: { words, kind, start: pageParam } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const there = pages.reduce((sum, page) => sum + page.motifs.length, 0);
      return there < last.total ? there : undefined;
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const shown = query.data?.pages.flatMap((page) => page.motifs) ?? [];
  const total = query.data?.pages[0]?.total ?? 0;
  const take = (motif: Motif) => {
    close();
    void takeMotif(motif.id, { how: motif.drawn ? how : "picture" });
  };
  return (
    <>
      <div className="mb-2 flex items-center gap-2.5">
        <span role="status" className="text-soft grow">
          {query.data ? `${total.toLocaleString("en")} ${total === 1 ? "drawing" : "drawings"}` : ""}
        </span>
        <span>Use it</span>
        <div className="w-[300px]">
          <Choice label="Use it as" value={how} options={HOWS} onChange={setHow} />
        </div>
      </div>
      <div
        className="min-h-0 grow overflow-y-auto"
        onScroll={(event) => {
          const { scrollTop, clientHeight, scrollHeight } = event.currentTarget;
          if (scrollTop + clientHeight > scrollHeight - 400 && query.hasNextPage && !query.isFetching)
            void query.fetchNextPage();
        }}
      >
        {query.isError ? (
          <p className="text-soft">The cabinet could not be loaded. Reload the page.</p>
        ) : (
          <ul aria-label="Motifs" className="grid grid-cols-[repeat(auto-fill,minmax(92px,1fr))] gap-1.5">
            {shown.map((motif) => (
              <li key={motif.id}>
                <button
                  type="button"
                  title={motif.source}
                  aria-label={`Use ${motif.name}`}
                  onClick={() => take(motif)}
                  onPointerEnter={() => setOver(motif)}
                  onFocus={() => setOver(motif)}
                  className="border-rule hover:border-act block w-full rounded-md border bg-white p-1.5 pb-1 text-[#23262b]"
                >
                  <img
                    src={`/api/cabinet/${motif.id}?small=true`}
                    alt=""
                    loading="lazy"
                    className="aspect-square w-full object-contain"
                  />
                  <span className="mt-1 block truncate text-[11px]">{motif.name}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
        {query.data && !total && (
          <p className="text-soft py-6 text-center">
            Nothing is found under “{words}”. Try a plainer word: bird, tree, kitchen, weather.
          </p>
        )}
      </div>
      <p className="text-soft mt-2 h-5 shrink-0 truncate text-xs">
        {over ? over.source : "Who drew it and its licence are noted, and go into your files."}
      </p>
    </>
  );
}

/** Motifs that the maker kept; one that is clicked lies on the sheet at its own size. */
function OwnMotifs({ words, close }: { words: string; close: () => void }) {
  const query = useQuery({
    queryKey: ["motifs"],
    queryFn: ({ signal }) => data(api.GET("/api/motifs", { signal })),
  });
  const shown = (query.data?.motifs ?? []).filter((m) => m.name.toLowerCase().includes(words.toLowerCase()));
  const place = (motif: string) => {
    close();
    fitNext.send();
    useBench.getState().make((now, headers) =>
      data(
        api.POST("/api/pieces/{piece_id}/motif", {
          params: { path: { piece_id: now.id } },
          body: { revision: now.revision, motif, seed: seed() },
          headers,
        }),
      ),
    );
  };
  return shown.length ? (
    <ul
      aria-label="Your motifs"
      className="grid min-h-0 grow auto-rows-min grid-cols-[repeat(auto-fill,minmax(92px,1fr))] gap-1.5 overflow-y-auto"
    >
      {shown.map((motif) => (
        <li key={motif.id}>
          <button
            type="button"
            aria-label={`Place ${motif.name} from the cabinet`}
            onClick={() => place(motif.id)}
            className="border-rule hover:border-act block w-full rounded-md border bg-white p-1.5 pb-1 text-[#23262b]"
          >
            <svg
              viewBox={`0 0 ${motif.width || 1} ${motif.height || 1}`}
              className="aspect-square w-full"
              aria-hidden
            >
              <path d={motif.path} fillRule="evenodd" />
            </svg>
            <span className="mt-1 block truncate text-[11px]">{motif.name}</span>
          </button>
        </li>
      ))}
    </ul>
  ) : (
    <p className="text-soft py-6 text-center">
      {query.data?.motifs.length
        ? "None of your motifs matches."
        : "Pick outlines in Shape and keep them under Motifs: they are here then, for every piece."}
    </p>
  );
}
