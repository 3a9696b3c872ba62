import { Copy, PenLine, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../api/client";
import { useMakes, useMe } from "../people/me";
import { ShareDialog } from "../people/ShareDialog";
import { SignButton } from "../ui/Button";

type Props = {
  card: Schemas["PieceCard"];
  isPicked: boolean;
  onPick: () => void;
  onRename: (name: string) => void;
  onDuplicate: () => void;
  onDelete: () => void;
};

const WHEN = new Intl.DateTimeFormat(undefined, {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

export function PieceCard({ card, isPicked, onPick, onRename, onDuplicate, onDelete }: Props) {
  const shared = useMe((s) => s.me?.shared ?? false);
  const makes = useMakes();
  const [naming, setNaming] = useState(false);
  const take = (name: string) => {
    setNaming(false);
    if (name.trim() && name.trim() !== card.name) onRename(name.trim());
  };
  return (
    <li className="group relative">
      {!card.empty && (
        <label
          className={`bg-paper/90 absolute top-2 left-2 z-10 grid size-8 cursor-pointer place-items-center rounded-md transition-opacity ${isPicked ? "" : "opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"}`}
        >
          <input
            type="checkbox"
            aria-label={`Pick ${card.name}`}
            checked={isPicked}
            onChange={onPick}
            className="accent-act size-4"
          />
        </label>
      )}
      <Link
        to={`/bench/${card.id}`}
        aria-label={`Open ${card.name}${card.empty ? ", no picture yet" : ""}`}
        className="bg-sheet border-rule hover:border-act block aspect-[4/3] overflow-hidden rounded-lg border p-4 transition-colors"
        data-picked={isPicked || undefined}
      >
        {card.empty ? (
          <span className="text-soft grid h-full place-items-center">no picture yet</span>
        ) : (
          <img
            src={`/api/pieces/${card.id}/picture/${card.revision}`}
            alt=""
            loading="lazy"
            className="h-full w-full object-contain"
          />
        )}
      </Link>
      {naming ? (
        <input
          autoFocus
          aria-label="Name of the piece"
          defaultValue={card.name}
          maxLength={120}
          className="border-act bg-sheet font-head mt-2 w-full rounded border px-1 text-[17px] font-semibold"
          onFocus={(event) => event.currentTarget.select()}
          onBlur={(event) => take(event.currentTarget.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") take(event.currentTarget.value);
            if (event.key === "Escape") setNaming(false);
          }}
        />
      ) : (
        <h2 className="mt-2 truncate text-[17px]" title={card.name}>
          <Link to={`/bench/${card.id}`} tabIndex={-1} className="hover:text-act">
            {card.name}
          </Link>
        </h2>
      )}
      <div className="flex items-center justify-between">
        <p className="text-soft min-w-0 truncate text-xs">
          {WHEN.format(new Date(card.updated))}
          {card.owner && ` · ${card.owner}’s`}
          {card.right === "look" && ", to look at"}
        </p>
        <div className="-mr-1.5 flex opacity-60 transition-opacity group-focus-within:opacity-100 group-hover:opacity-100">
          {shared && card.right === "own" && <ShareDialog piece={card.id} name={card.name} />}
          {card.right !== "look" && (
            <SignButton label={`Rename ${card.name}`} onClick={() => setNaming(true)}>
              <PenLine size={15} />
            </SignButton>
          )}
          {makes && (
            <SignButton label={`Duplicate ${card.name}`} onClick={onDuplicate}>
              <Copy size={15} />
            </SignButton>
          )}
          {card.right === "own" && (
            <SignButton label={`Delete ${card.name}`} onClick={onDelete}>
              <Trash2 size={15} />
            </SignButton>
          )}
        </div>
      </div>
    </li>
  );
}
