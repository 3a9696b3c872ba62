import { ClipboardPaste, ImagePlus } from "lucide-react";
import { useRef } from "react";

import { Button } from "../../ui/Button";
import { Choice, TextField } from "../../ui/fields";
import { DRAWINGS } from "../../ui/kinds";
import { useNotices } from "../../ui/notices";
import { takeFiles } from "../incoming";
import { useDocument, useLook } from "../select";
import { useBench } from "../store";
import { Figures, Section } from "./parts";
import { Cabinet } from "./Cabinet";
import { PictureCare } from "./PictureCare";

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
  const source = document?.source;
  const look = useLook();
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
      refuse("The browser does not let this page read the clipboard. Press Ctrl V instead.");
    }
  };
  return (
    <>
      <Section name="Picture">
        {source ? (
          <>
            <div className="border-rule mb-3 aspect-[5/3] overflow-hidden rounded-md border bg-white p-2">
              <img
                src={look}
                alt={`The piece's picture, ${source.name}`}
                className="h-full w-full object-contain"
              />
            </div>
            <Figures
              rows={[
                ["File", source.name],
                ["Pixels", `${source.width} × ${source.height}`],
              ]}
            />
          </>
        ) : (
          <p className="text-soft">
            Look for art with few solid colours. The cleaner the picture, the less there is to mend
            afterwards.
          </p>
        )}
      </Section>
      {source && <PictureCare source={source} />}
      {source && (
        <Section name="Where it came from">
          <Choice
            label="Permission"
            value={source.permission ?? "unknown"}
            options={PERMISSIONS}
            onChange={(permission) => commit({ do: "set-source", permission })}
          />
          <TextField
            label="Source"
            value={source.origin ?? ""}
            placeholder="address, book, or who drew it"
            maxLength={400}
            onCommit={(origin) => commit({ do: "set-source", origin })}
          />
          <p className="text-soft text-xs">Both travel into the 3MF.</p>
        </Section>
      )}
      <div className="mb-5 space-y-2">
        <Button kind={source ? "plain" : "act"} className="w-full" onClick={() => chooser.current?.click()}>
          <ImagePlus size={16} aria-hidden />{" "}
          {source ? "Take another picture" : "Choose a picture or drawing"}
        </Button>
        <Button className="w-full" onClick={() => void paste()}>
          <ClipboardPaste size={16} aria-hidden /> Paste from the clipboard
        </Button>
      </div>
      <Cabinet />
      {source && (
        <p className="text-soft mt-3 text-[12.5px]">
          Heights, names and filaments stay with regions that lie in the same place in the new picture.
        </p>
      )}
      <input
        ref={chooser}
        type="file"
        accept={`image/*,${DRAWINGS}`}
        className="hidden"
        aria-label="Another picture"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) takeFiles([file]);
        }}
      />
    </>
  );
}
