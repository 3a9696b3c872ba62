import { useQuery } from "@tanstack/react-query";
import { Check, CheckCheck, ScanText, X } from "lucide-react";
import { useState } from "react";

import { api, data, type Schemas } from "../../../api/client";
import { Button, SignButton } from "../../../ui/Button";
import { usePicture } from "../../select";
import { seed } from "../../shape/objects";
import { useFonts } from "../../shape/useFonts";
import { useBench } from "../../store";
import { focusOn } from "../../signals";

type Offer = Schemas["Offer"];
type Asked = { piece: string; revision: number; picture: string };

/** What the maker made of a line before it is taken. */
type Corrected = { text: string; font: string };

const nameOf = (offer: Offer) => `${offer.at.join(" ")} ${offer.width}`;

/** The words in the picture as they were read, each to take, correct or leave. */
export function WordsRead() {
  const picture = usePicture();
  const piece = useBench((s) => s.piece);
  const [asked, setAsked] = useState<Asked | null>(null);
  const [done, setDone] = useState<ReadonlySet<string>>(new Set());
  const [corrected, setCorrected] = useState<Readonly<Record<string, Corrected>>>({});
  const read = useQuery({
    queryKey: ["words", asked],
    enabled: asked !== null,
    retry: false,
    queryFn: async ({ signal }) =>
      (
        await data(
          api.GET("/api/pieces/{piece_id}/words/{revision}", {
            params: {
              path: { piece_id: asked?.piece ?? "", revision: asked?.revision ?? 0 },
              query: { picture: asked?.picture ?? null },
            },
            signal,
          }),
        )
      ).words,
  });
  if (!picture || !piece) return null;
  const mine = asked?.piece === piece.id;
  const open = mine ? (read.data ?? []).filter((offer) => !done.has(nameOf(offer))) : [];
  const asNow = (offer: Offer): Corrected => corrected[nameOf(offer)] ?? offer;
  const leave = (offers: readonly Offer[]) => setDone(new Set([...done, ...offers.map(nameOf)]));
  const take = (offers: readonly Offer[]) => {
    const taken = offers.filter((offer) => asNow(offer).text.trim());
    if (!taken.length) return;
    useBench.getState().commit({
      do: "set-words",
      things: taken.map((offer) => lettering(offer, asNow(offer))),
      // A letter that two lines claim goes once.
      under: [
        ...new Map(taken.flatMap((offer) => offer.under).map((letter) => [letter.id, letter])).values(),
      ],
    });
    leave(taken);
  };
  return (
    <>
      <Button
        className="mt-1.5 w-full"
        disabled={mine && read.isFetching}
        onClick={() => {
          setDone(new Set());
          setCorrected({});
          setAsked({ piece: piece.id, revision: piece.revision, picture: picture.id });
        }}
      >
        <ScanText size={15} aria-hidden />
        {mine && read.isFetching ? "Reading …" : "Read the words in the picture"}
      </Button>
      {mine && read.isError && (
        <p
          role="alert"
          className="border-error bg-error-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1.5 text-[13px]"
        >
          {read.error.message}
        </p>
      )}
      {mine && read.data?.length === 0 && (
        <p role="status" className="text-soft mt-2 text-[12.5px]">
          No words were found. Words that lean or follow a curve are not read: level the picture in Gather, or
          set them by hand.
        </p>
      )}
      {open.length > 0 && (
        <ul aria-label="Words that were read" className="mt-2 space-y-2">
          {open.map((offer) => (
            <Row
              key={nameOf(offer)}
              offer={offer}
              now={asNow(offer)}
              onChange={(next) => setCorrected({ ...corrected, [nameOf(offer)]: next })}
              onTake={() => take([offer])}
              onLeave={() => leave([offer])}
            />
          ))}
        </ul>
      )}
      {open.length > 1 && (
        <Button className="mt-1.5 w-full" onClick={() => take(open)}>
          <CheckCheck size={15} aria-hidden />{" "}
          {open.length === 2 ? "Use both lines" : `Use all ${open.length} lines`}
        </Button>
      )}
    </>
  );
}

/** A line as lettering in its place. */
function lettering(offer: Offer, { text, font }: Corrected) {
  return {
    kind: "lettering" as const,
    id: `${seed()}w`,
    text: text.trim(),
    font,
    at: offer.at,
    height: offer.height,
    // A text that was corrected keeps the height of its capitals; as it was read it is as wide as the letters.
    width: text.trim() === offer.text ? offer.width : null,
  };
}

/** One line of words: its text and font to correct, and whether it takes the traced letters' place. */
function Row({
  offer,
  now,
  onChange,
  onTake,
  onLeave,
}: {
  offer: Offer;
  now: Corrected;
  onChange: (next: Corrected) => void;
  onTake: () => void;
  onLeave: () => void;
}) {
  const fonts = useFonts();
  const { text, font } = now;
  const [x, y] = offer.at;
  const look = () => focusOn.send({ x, y, radius: offer.width / 4 });
  return (
    <li className="border-rule rounded-md border p-1.5">
      <div className="flex items-center gap-1">
        <input
          aria-label={`Text for ${offer.text}`}
          value={text}
          maxLength={400}
          onFocus={look}
          onChange={(event) => onChange({ font, text: event.target.value })}
          onKeyDown={(event) => event.key === "Enter" && onTake()}
          className="bg-sheet border-hair focus:border-act h-8 min-w-0 grow rounded-md border px-2 outline-none"
        />
        <SignButton label={`Use ${offer.text}`} disabled={!text.trim()} onClick={onTake}>
          <Check size={16} />
        </SignButton>
        <SignButton label={`Skip ${offer.text}`} onClick={onLeave}>
          <X size={16} />
        </SignButton>
      </div>
      <div className="mt-1 flex items-center gap-1.5 text-[12px]">
        <select
          aria-label={`Font for ${offer.text}`}
          value={font}
          onChange={(event) => onChange({ text, font: event.target.value })}
          className="bg-sheet border-hair h-7 min-w-0 grow rounded-md border px-1"
        >
          {/* The list of fonts may come after the words. */}
          {!fonts.some((f) => f.id === font) && <option value={font}>…</option>}
          {fonts.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </select>
        <span className="text-soft shrink-0">
          {Math.round(100 * offer.confidence)} % sure
          {font === offer.font && `, ${Math.round(100 * offer.likeness)} % alike`}
        </span>
      </div>
    </li>
  );
}
