import { ImagePlus } from "lucide-react";
import { useRef } from "react";

import { DRAWINGS } from "../../ui/kinds";
import { takeFiles } from "../incoming";

export function EmptySheet() {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <div className="absolute inset-0 grid place-items-center pt-6 pl-6 text-center">
      <div className="max-w-xs">
        <h2 className="mb-1.5 text-2xl">Start with a picture</h2>
        <p className="text-soft mb-4">
          Drop a silhouette, a logo or a photo of a drawing here, paste a screen grab, or pick something from
          the cabinet on the right. Few solid colours trace best. An SVG or DXF comes in as it is drawn.
        </p>
        <button
          type="button"
          onClick={() => chooser.current?.click()}
          className="bg-act text-on-act inline-flex h-8 items-center gap-1.5 rounded-md px-3 font-medium"
        >
          <ImagePlus size={16} aria-hidden /> Choose a file
        </button>
        <input
          ref={chooser}
          type="file"
          accept={`image/*,${DRAWINGS}`}
          className="hidden"
          aria-label="Picture for this piece"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) void takeFiles([file]);
          }}
        />
      </div>
    </div>
  );
}
