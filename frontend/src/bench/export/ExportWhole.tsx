import { useMutation } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { Button } from "../../ui/Button";
import { useBegun } from "../select";
import { useBench } from "../store";
import { download } from "./download";

/** The whole piece: as an archive to go on with elsewhere, or as a recipe to build it by command. */
export function ExportWhole({ kind }: { kind: "archive" | "recipe" }) {
  const piece = useBench((s) => s.piece);
  const begun = useBegun();
  const made = useMutation({
    mutationFn: async () => {
      if (!piece) throw new Error("No piece is open.");
      const params = { path: { piece_id: piece.id } };
      return kind === "archive"
        ? data(api.POST("/api/pieces/{piece_id}/archive", { params }))
        : data(api.POST("/api/pieces/{piece_id}/recipe", { params, body: { revision: piece.revision } }));
    },
    onSuccess: download,
  });
  return (
    <>
      <Button kind="act" className="w-full" disabled={made.isPending || !begun} onClick={() => made.mutate()}>
        {made.isPending ? "Writing …" : `Export ${kind}`}
      </Button>
      <div aria-live="polite">
        {made.isError && <p className="text-error mt-2 text-xs">{made.error.message}</p>}
        {made.data && (
          <p className="mt-2">
            <a href={made.data.url} download={made.data.name} className="underline">
              {made.data.name}
            </a>
          </p>
        )}
      </div>
    </>
  );
}
