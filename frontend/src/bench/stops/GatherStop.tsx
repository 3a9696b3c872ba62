import { ClipboardPaste, ImagePlus } from "lucide-react";
import { useRef } from "react";

import { Button } from "../../ui/Button";
import { Choice, TextField } from "../../ui/fields";
import { DRAWINGS, isDrawing } from "../../ui/kinds";
import { useNotices } from "../../ui/notices";
import { takeFiles } from "../incoming";
import { hasBegun } from "../begun";
import { useDocument, useLook, usePicture } from "../select";
import { seed } from "../shape/objects";
import { useBench } from "../store";
import { Figures, Section } from "./parts";
import { Cabinet } from "./Cabinet";
import { BeginPlain } from "./BeginPlain";
import { PictureCare } from "./PictureCare";
import { PictureChoice } from "./PictureChoice";
import { PicturePlace } from "./PicturePlace";

const PERMISSIONS = [
  { value: "mine", name: "Mine" },
  { value: "free", name: "Free licence" },
  { value: "asked", name: "Asked" },
  { value: "unknown", name: "Unknown" },
] as const;

export function GatherStop() {
  const document = useDocument();
  const { putPicture, commit } = useBench.getState();
  const refuse = useNotices((s) => s.refuse);
  const chooser = useRef<HTMLInputElement>(null);
  const picture = usePicture();
  const look = useLook();
  const replacing = useRef(false);
  const paste = async () => {
    try {
      for (const item of await navigator.clipboard.read()) {
        const type = item.types.find((t) => t.startsWith("image/"));
        if (!type) continue;
        const blob = await item.getType(type);
        await putPicture(new File([blob], "pasted picture.png", { type }));
        return;
      }
      refuse("There is no picture on the clipboard. Copy one, or make a screen grab, and paste again.");
    } catch {
      refuse("The browser won’t let this page read the clipboard. Press Ctrl V instead.");
    }
  };
  return (
    <>
      <PictureChoice />
      <Section name="Picture">
        {picture ? (
          <>
            <div className="border-rule mb-3 aspect-[5/3] overflow-hidden rounded-md border bg-white p-2">
              <img
                src={look}
                alt={`The piece's picture, ${picture.name}`}
                className="h-full w-full object-contain"
              />
            </div>
            <Figures
              rows={[
                ["File", picture.name],
                ["Pixels", `${picture.width} × ${picture.height}`],
              ]}
            />
            <div className="mt-2 grid grid-cols-2 gap-1.5">
              <Button
                className="px-1! text-[12.5px]"
                onClick={() => {
                  replacing.current = true;
                  chooser.current?.click();
                }}
              >
                Replace
              </Button>
              <Button
                className="px-1! text-[12.5px]"
                onClick={() => commit({ do: "drop-picture", picture: picture.id })}
              >
                Remove
              </Button>
              <Button
                className="col-span-2 px-1! text-[12.5px]"
                onClick={() => commit({ do: "keep-outlines", seed: seed(), picture: picture.id })}
              >
                Remove, keep its outlines
              </Button>
            </div>
          </>
        ) : (
          <p className="text-soft">
            Look for art with few solid colours. The cleaner the picture, the less there is to mend
            afterwards.
          </p>
        )}
      </Section>
      {picture && <PictureCare picture={picture} />}
      {picture && <PicturePlace picture={picture} />}
      {picture && (
        <Section name="Where it came from">
          <Choice
            label="Permission"
            value={picture.permission}
            options={PERMISSIONS}
            onChange={(permission) => commit({ do: "set-source", picture: picture.id, permission })}
          />
          <TextField
            label="Source"
            value={picture.origin}
            placeholder="address, book, or who drew it"
            maxLength={400}
            onCommit={(origin) => commit({ do: "set-source", picture: picture.id, origin })}
          />
          <p className="text-soft text-xs">Both go into the 3MF.</p>
        </Section>
      )}
      <div className="mb-5 space-y-2">
        <Button
          kind={picture ? "plain" : "act"}
          className="w-full"
          onClick={() => {
            replacing.current = false;
            chooser.current?.click();
          }}
        >
          <ImagePlus size={16} aria-hidden />{" "}
          {picture ? "Add a picture or drawing" : "Choose a picture or drawing"}
        </Button>
        <Button className="w-full" onClick={() => void paste()}>
          <ClipboardPaste size={16} aria-hidden /> Paste from the clipboard
        </Button>
      </div>
      <Cabinet />
      {!hasBegun(document) && <BeginPlain />}
      <input
        ref={chooser}
        type="file"
        accept={`image/*,${DRAWINGS}`}
        className="hidden"
        aria-label="Another picture"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (!file) return;
          if (replacing.current && picture && !isDrawing(file))
            void putPicture(file, { replaces: picture.id });
          else void takeFiles([file]);
        }}
      />
    </>
  );
}
