import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { UserPlus } from "lucide-react";
import { useState } from "react";

import { api, data, type Schemas } from "../api/client";
import { Button, SignButton } from "../ui/Button";
import { Choice } from "../ui/fields";
import { Modal } from "../ui/Modal";
import { useNotices } from "../ui/notices";
import { ByLink } from "./ByLink";

type Openness = Schemas["OpenTo"]["openness"];
const OPEN: readonly { value: Openness; name: string }[] = [
  { value: "private", name: "Nobody else" },
  { value: "shown", name: "Everybody, to look" },
  { value: "edited", name: "Everybody, to edit" },
];

/** With whom a piece is shared. */
export function ShareDialog({ piece, name }: { piece: string; name: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Modal
      title={`Share ${name}`}
      open={open}
      onOpenChange={setOpen}
      className="w-[460px]"
      closing
      trigger={
        <SignButton label={`Share ${name}`}>
          <UserPlus size={15} />
        </SignButton>
      }
    >
      {open && <Sharing piece={piece} />}
    </Modal>
  );
}

function Sharing({ piece }: { piece: string }) {
  const queries = useQueryClient();
  const { refuse } = useNotices();
  const key = ["sharing", piece];
  const params = { path: { piece_id: piece } };
  const sharing = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => data(api.GET("/api/pieces/{piece_id}/sharing", { params, signal })),
  });
  const names = useQuery({
    queryKey: ["names"],
    queryFn: ({ signal }) => data(api.GET("/api/people/names", { signal })),
  });
  const after = {
    onSuccess: (next: Schemas["SharingOut"]) => queries.setQueryData(key, next),
    onError: (error: Error) => refuse(error.message),
  };
  const openTo = useMutation({
    mutationFn: (openness: Openness) =>
      data(api.PUT("/api/pieces/{piece_id}/sharing", { params, body: { openness } })),
    ...after,
  });
  const share = useMutation({
    mutationFn: ({ account, right }: { account: string; right: "look" | "edit" | null }) =>
      data(
        api.PUT("/api/pieces/{piece_id}/sharing/{account}", {
          params: { path: { piece_id: piece, account } },
          body: { right },
        }),
      ),
    ...after,
  });
  const found = sharing.data;
  if (!found) return <p className="text-soft">{sharing.error?.message ?? "…"}</p>;
  const rights = new Map(found.people.map((p) => [p.account, p.right]));
  const others = names.data?.people ?? [];
  return (
    <>
      <h3 className="mb-1.5 font-semibold">Who else may open it</h3>
      <Choice
        label="Who else may open it"
        value={found.openness}
        options={OPEN}
        onChange={(openness) => openTo.mutate(openness)}
      />
      <h3 className="mt-5 mb-1 font-semibold">One by one</h3>
      {others.length === 0 && <p className="text-soft">Nobody else is in the workshop yet.</p>}
      <ul className="max-h-[34vh] overflow-y-auto">
        {others.map((person) => (
          <li key={person.id} className="border-rule flex items-center gap-3 border-b py-1.5">
            <span className="min-w-0 grow truncate">
              {person.title}
              {person.role === "guest" && <span className="text-soft ml-2 text-xs">guest</span>}
            </span>
            <select
              aria-label={`What ${person.title} may do`}
              value={rights.get(person.id) ?? ""}
              onChange={(event) =>
                share.mutate({
                  account: person.id,
                  right: event.target.value === "" ? null : (event.target.value as "look" | "edit"),
                })
              }
              className="border-hair bg-sheet h-8 rounded-md border px-2"
            >
              <option value="">not shared</option>
              <option value="look">may look</option>
              {person.role !== "guest" && <option value="edit">may edit</option>}
            </select>
            <Give piece={piece} account={person.id} title={person.title} disabled={person.role === "guest"} />
          </li>
        ))}
      </ul>
      <ByLink
        piece={piece}
        linked={found.link}
        onChange={(change) => queries.setQueryData(key, { ...found, ...change })}
      />
    </>
  );
}

/** Makes the piece somebody else's, when it is asked for twice. */
function Give({
  piece,
  account,
  title,
  disabled,
}: {
  piece: string;
  account: string;
  title: string;
  disabled: boolean;
}) {
  const queries = useQueryClient();
  const { say, refuse } = useNotices();
  const [sure, setSure] = useState(false);
  const give = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/pieces/{piece_id}/owner", {
          params: { path: { piece_id: piece } },
          body: { account },
        }),
      ),
    onSuccess: () => {
      say(`The piece is ${title}’s now.`);
      return queries.invalidateQueries({ queryKey: ["pieces"] });
    },
    onError: (error) => refuse(error.message),
  });
  return (
    <Button
      kind="quiet"
      className="w-24"
      disabled={disabled || give.isPending}
      onBlur={() => setSure(false)}
      onClick={() => (sure ? give.mutate() : setSure(true))}
    >
      {sure ? "Really give" : "Give away"}
    </Button>
  );
}
