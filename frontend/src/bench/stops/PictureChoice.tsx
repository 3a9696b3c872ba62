import { lookOf, useDocument, usePicture, useShown } from "../select";
import { useBench } from "../store";

/** Which of several pictures the settings are of; nothing where there is one. */
export function PictureChoice() {
  const document = useDocument();
  const flat = useShown();
  const piece = useBench((s) => s.piece?.id ?? "");
  const current = usePicture();
  const setPicture = useBench((s) => s.setPicture);
  if (!document || document.pictures.length < 2) return null;
  return (
    <div role="radiogroup" aria-label="Picture" className="mb-4 flex flex-wrap gap-1.5">
      {document.pictures.map((picture) => {
        const look = flat?.underlays.find((u) => u.id === picture.id)?.look;
        const chosen = picture.id === current?.id;
        return (
          <button
            key={picture.id}
            type="button"
            role="radio"
            aria-checked={chosen}
            aria-label={picture.name}
            title={picture.name}
            onClick={() => setPicture(picture.id)}
            className={`size-12 overflow-hidden rounded-md border-2 bg-white p-0.5 ${chosen ? "border-act" : "border-rule hover:border-act"}`}
          >
            {look && <img src={lookOf(piece, look)} alt="" className="h-full w-full object-contain" />}
          </button>
        );
      })}
    </div>
  );
}
