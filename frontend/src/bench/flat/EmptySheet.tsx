import { ImagePlus } from "lucide-react";
import { useRef } from "react";

import { useBench } from "../store";

export function EmptySheet() {
  const putPicture = useBench((s) => s.putPicture);
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <div className="absolute inset-0 grid place-items-center pt-6 pl-6 text-center">
      <div className="max-w-xs">
        <h2 className="mb-1.5 text-2xl">Begin with a picture</h2>
        <p className="text-soft mb-4">
          Drop a silhouette, a logo or a drawing here, paste a screen grab, or take something from the cabinet
          at the right. Few solid colours trace best.
        </p>
        <button
          type="button"
          onClick={() => chooser.current?.click()}
          className="bg-act text-on-act inline-flex h-8 items-center gap-1.5 rounded-md px-3 font-medium"
        >
          <ImagePlus size={16} aria-hidden /> Choose a picture
        </button>
        <input
          ref={chooser}
          type="file"
          accept="image/*"
          className="hidden"
          aria-label="Picture for this piece"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) void putPicture(file);
          }}
        />
      </div>
    </div>
  );
}
