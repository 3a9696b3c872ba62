import { useMutation } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { Button } from "../../ui/Button";
import { useBegun } from "../select";
import { useBench } from "../store";
import { download } from "./download";

/** The whole piece as a recipe, with the pictures that it needs. */
export function ExportRecipe() {
  const piece = useBench((s) => s.piece);
  const begun = useBegun();
  const recipe = useMutation({
    mutationFn: async () => {
      if (!piece) throw new Error("No piece is open.");
      return data(
        api.POST("/api/pieces/{piece_id}/recipe", {
          params: { path: { piece_id: piece.id } },
          body: { revision: piece.revision },
        }),
      );
    },
    onSuccess: download,
  });
  return (
    <>
      <Button
        kind="act"
        className="w-full"
        disabled={recipe.isPending || !begun}
        onClick={() => recipe.mutate()}
      >
        {recipe.isPending ? "Writing …" : "Export recipe"}
      </Button>
      <div aria-live="polite">
        {recipe.isError && <p className="text-error mt-2 text-xs">{recipe.error.message}</p>}
        {recipe.data && (
          <p className="mt-2">
            <a href={recipe.data.url} download={recipe.data.name} className="underline">
              {recipe.data.name}
            </a>
          </p>
        )}
      </div>
    </>
  );
}
