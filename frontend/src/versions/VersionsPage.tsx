import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { api, data } from "../api/client";
import { Page } from "../pieces/Page";
import { Differences } from "./Differences";
import { Past } from "./Past";
import { useVersion, useVersions } from "./useVersions";
import { VersionView } from "./VersionView";

/** The whole past of a piece: read it, look at any of it, go back. */
export default function VersionsPage() {
  const { pieceId = "" } = useParams();
  const [chosen, setChosen] = useState<number | null>(null);
  const now = useQuery({
    queryKey: ["piece", pieceId],
    queryFn: ({ signal }) =>
      data(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: pieceId } }, signal })),
    retry: false,
  });
  const versions = useVersions(pieceId);
  const shown = versions.data?.shown;
  const revision = chosen ?? shown;
  const version = useVersion(pieceId, revision, shown);
  const piece = now.data?.piece;
  const failed = now.error ?? versions.error;
  return (
    <Page
      title={piece ? `Versions of ${piece.name}` : "Versions"}
      back={{ to: `/bench/${pieceId}`, name: "Back to the bench" }}
      full
    >
      {failed && (
        <p role="alert" className="border-error bg-error-wash m-6 rounded-r-md border-l-4 px-4 py-2">
          {failed.message}
        </p>
      )}
      {now.data && versions.data && revision !== undefined && (
        <div className="grid h-full min-w-[880px] grid-cols-[312px_minmax(0,1fr)_288px]">
          <Past
            piece={now.data.piece}
            versions={versions.data}
            chosen={revision}
            onChoose={(next) => setChosen(next === shown ? null : next)}
          />
          <VersionView piece={now.data} version={version} revision={revision} isNow={revision === shown} />
          <Differences
            piece={now.data.piece}
            version={version}
            revision={revision}
            isNow={revision === shown}
          />
        </div>
      )}
    </Page>
  );
}
