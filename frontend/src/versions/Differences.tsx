import { useMutation, useQuery, useQueryClient, type UseQueryResult } from "@tanstack/react-query";
import { CopyPlus, Undo2 } from "lucide-react";
import { useNavigate } from "react-router";

import { api, data, type Piece, type Schemas } from "../api/client";
import { Button } from "../ui/Button";
import { TextField } from "../ui/fields";
import { formatLength, unitName, type Units } from "../ui/length";
import { useNotices } from "../ui/notices";
import { versionsKey, type Version } from "./useVersions";
import { dayOf, inWords, timeOf } from "./words";

type Props = {
  piece: Piece;
  version: UseQueryResult<Version>;
  revision: number;
  isNow: boolean;
};

/** What has changed since a version, and the ways back to it. */
export function Differences({ piece, version, revision, isNow }: Props) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { say, refuse } = useNotices();
  const path = { path: { piece_id: piece.id, revision } };
  const failed = (error: Error) => refuse(error.message);
  const renewed = () => queries.invalidateQueries({ queryKey: versionsKey(piece.id) });
  const name = useMutation({
    mutationFn: (to: string) =>
      data(
        api.PUT("/api/pieces/{piece_id}/versions/{revision}/name", {
          params: path,
          body: { name: to || null },
        }),
      ),
    onSuccess: renewed,
    onError: failed,
  });
  const back = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/pieces/{piece_id}/versions/{revision}/go-back", {
          params: path,
          body: { revision: piece.revision },
        }),
      ),
    onSuccess: async (bench) => {
      queries.setQueryData(["piece", piece.id], bench);
      await renewed();
      say("The piece is as it was then. Undo takes you back to where you were.");
      void navigate(`/bench/${piece.id}`);
    },
    onError: (error) => {
      failed(error);
      void queries.invalidateQueries({ queryKey: ["piece", piece.id] });
      void renewed();
    },
  });
  const fresh = useMutation({
    mutationFn: () => data(api.POST("/api/pieces/{piece_id}/versions/{revision}/piece", { params: path })),
    onSuccess: (begun) => {
      void queries.invalidateQueries({ queryKey: ["pieces"] });
      void navigate(`/bench/${begun.id}`);
    },
    onError: failed,
  });
  // What is typed must be for the version that is shown: the fields wait for it.
  const then = version.data?.revision === revision ? version.data : undefined;
  const { units } = piece.document;
  const busy = back.isPending || fresh.isPending;
  return (
    <aside aria-label="About this version" className="border-rule min-h-0 overflow-y-auto border-l px-4 py-4">
      {!then && !version.error && <p className="text-soft">Fetching the version …</p>}
      {then && (
        <>
          <h2 className="text-[17px]">
            {isNow ? "As it is now" : `${dayOf(then.made)}, ${timeOf(then.made)}`}
          </h2>
          <TextField
            key={`${then.revision} ${then.name}`}
            label="Name of this version"
            value={then.name ?? ""}
            placeholder="such as: sent to print"
            maxLength={120}
            onCommit={(to) => name.mutate(to)}
          />
          <p className="text-soft mb-3 text-xs">
            {then.name ? "Kept for good." : "Versions with a name are kept for good."}
          </p>
          <div className="space-y-1.5">
            <Button
              kind="act"
              className="w-full"
              disabled={busy || isNow}
              title={isNow ? "This is how the piece is" : "Nothing that came later is lost"}
              onClick={() => back.mutate()}
            >
              <Undo2 size={15} aria-hidden /> Go back to this
            </Button>
            <Button className="w-full" disabled={busy} onClick={() => fresh.mutate()}>
              <CopyPlus size={15} aria-hidden /> New piece from this
            </Button>
          </div>
          {!isNow && <Since version={then} units={units} />}
          <Figures piece={piece} revision={then.revision} isNow={isNow} units={units} />
        </>
      )}
    </aside>
  );
}

/** From then to now, in words. */
function Since({ version, units }: { version: Version; units: Units }) {
  const { gone, new: come, reshaped } = version.regions;
  const nothing = !version.since.length && !gone.length && !come.length && !reshaped.length;
  return (
    <section aria-label="What has changed since" className="mt-5">
      <h3 className="font-head mb-1 text-[15px] font-semibold">Since then</h3>
      {nothing && <p className="text-soft">Nothing has changed.</p>}
      <ul className="space-y-1">
        {version.since.map((told, i) => (
          <li key={i} className="leading-snug">
            {inWords(told, units)}
          </li>
        ))}
      </ul>
      <Names title="New regions" names={come} />
      <Names title="Regions no longer there" names={gone} />
      <Names title="Regions with a changed outline" names={reshaped} />
    </section>
  );
}

/** So many names are listed. */
const NAMED = 8;

function Names({ title, names }: { title: string; names: readonly string[] }) {
  if (!names.length) return null;
  const rest = names.length - NAMED;
  return (
    <p className="mt-2 leading-snug">
      <span className="text-soft block text-xs">{title}</span>
      {names.slice(0, NAMED).join(", ")}
      {rest > 0 && ` and ${rest} more`}
    </p>
  );
}

type Weight = Schemas["SolidFigures"];

function useWeight(piece: string, revision: number) {
  return useQuery({
    queryKey: ["version-figures", piece, revision],
    queryFn: ({ signal }) =>
      data(
        api.GET("/api/pieces/{piece_id}/versions/{revision}/solid-figures", {
          params: { path: { piece_id: piece, revision } },
          signal,
        }),
      ),
    staleTime: Infinity,
    retry: false,
  });
}

/** Size and volume of the solid, then and now. */
function Figures({
  piece,
  revision,
  isNow,
  units,
}: {
  piece: Piece;
  revision: number;
  isNow: boolean;
  units: Units;
}) {
  const then = useWeight(piece.id, revision);
  const now = useWeight(piece.id, piece.revision);
  const length = (mm: number | undefined) => formatLength(mm ?? 0, units, units === "mm" ? 1 : 2);
  const rows: { name: string; of: (weight: Weight) => string }[] = [
    { name: `Width, ${unitName(units)}`, of: ({ size_mm }) => length(size_mm[0]) },
    { name: `Depth, ${unitName(units)}`, of: ({ size_mm }) => length(size_mm[1]) },
    { name: `Height, ${unitName(units)}`, of: ({ size_mm }) => length(size_mm[2]) },
    { name: "Volume, cm³", of: ({ volume_mm3 }) => (volume_mm3 / 1000).toFixed(2) },
  ];
  const cell = (found: UseQueryResult<Weight>, of: (weight: Weight) => string) =>
    found.data ? of(found.data) : found.isError ? "cannot be built" : "…";
  return (
    <table className="mt-5 w-full text-[13px] tabular-nums">
      <caption className="font-head mb-1 text-left text-[15px] font-semibold">The solid</caption>
      <thead>
        <tr className="text-soft text-left text-xs">
          <th className="font-normal">
            <span className="sr-only">What</span>
          </th>
          {!isNow && <th className="font-normal">then</th>}
          <th className="font-normal">now</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ name, of }) => (
          <tr key={name} className="border-rule border-t align-top">
            <th className="text-soft py-1 pr-2 text-left font-normal">{name}</th>
            {!isNow && <td className="py-1 pr-2">{cell(then, of)}</td>}
            <td className="py-1">{cell(now, of)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
