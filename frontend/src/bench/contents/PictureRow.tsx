import { ChevronUp, Eye, EyeOff, Lock, LockOpen } from "lucide-react";

import type { Picture } from "../../api/client";
import { SignButton } from "../../ui/Button";
import { lookOf, underlayOf, usePicture } from "../select";
import { useBench } from "../store";

/** A picture on the sheet: chosen for Gather and Trace, moved up or down, hidden, locked. */
export function PictureRow({ picture, only }: { picture: Picture; only: boolean }) {
  const piece = useBench((s) => s.piece?.id ?? "");
  const look = useBench((s) => underlayOf(s.flat, picture.id)?.look);
  const current = usePicture()?.id === picture.id;
  const { setPicture, setStop, commit } = useBench.getState();
  const marks = picture.locked || picture.hidden;
  return (
    <li className={`group relative rounded-md ${current && !only ? "bg-act-wash" : ""}`}>
      <button
        type="button"
        aria-pressed={current}
        onClick={() => {
          setPicture(picture.id);
          setStop("Gather");
        }}
        className="hover:bg-act-wash grid w-full grid-cols-[34px_1fr] items-center gap-2.5 rounded-md px-1.5 py-1.5 text-left"
      >
        <span className="border-rule grid size-[34px] place-items-center overflow-hidden rounded border bg-white">
          {look && <img src={lookOf(piece, look)} alt="" className="max-h-full max-w-full" />}
        </span>
        <span className="min-w-0">
          <span
            className={`block truncate ${picture.hidden ? "text-soft line-through" : ""}`}
            title={picture.name}
          >
            {picture.name}
          </span>
          <span className="text-soft text-xs">
            {picture.width} × {picture.height} px
          </span>
        </span>
      </button>
      <span
        className={`bg-paper absolute top-2 right-0.5 flex rounded-md ${marks ? "" : "opacity-0 group-hover:opacity-100 focus-within:opacity-100"}`}
      >
        {!only && (
          <SignButton
            label={`Bring ${picture.name} up`}
            className="size-7!"
            onClick={() => commit({ do: "order-picture", picture: picture.id, to: "up" })}
          >
            <ChevronUp size={13} />
          </SignButton>
        )}
        <SignButton
          label={picture.locked ? `Unlock ${picture.name}` : `Lock ${picture.name}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-picture", picture: picture.id, locked: !picture.locked })}
        >
          {picture.locked ? <Lock size={13} /> : <LockOpen size={13} />}
        </SignButton>
        <SignButton
          label={picture.hidden ? `Show ${picture.name}` : `Hide ${picture.name}`}
          className="size-7!"
          onClick={() => commit({ do: "mark-picture", picture: picture.id, hidden: !picture.hidden })}
        >
          {picture.hidden ? <EyeOff size={13} /> : <Eye size={13} />}
        </SignButton>
      </span>
    </li>
  );
}
