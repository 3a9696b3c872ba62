import { useMutation } from "@tanstack/react-query";
import { Copy } from "lucide-react";

import { api, data, type Schemas } from "../api/client";
import { Button } from "../ui/Button";
import { useNotices } from "../ui/notices";

type Sharing = Schemas["SharingOut"];

/** A link by which anybody may look at a piece: made, copied once, ended. */
export function ByLink({
  piece,
  linked,
  onChange,
}: {
  piece: string;
  linked: boolean;
  onChange: (change: Partial<Sharing>) => void;
}) {
  const { say, refuse } = useNotices();
  const params = { path: { piece_id: piece } };
  const make = useMutation({
    mutationFn: () => data(api.POST("/api/pieces/{piece_id}/link", { params })),
    onSuccess: () => onChange({ link: true }),
    onError: (error) => refuse(error.message),
  });
  const drop = useMutation({
    mutationFn: () => data(api.DELETE("/api/pieces/{piece_id}/link", { params })),
    onSuccess: (next) => {
      make.reset();
      onChange(next);
    },
    onError: (error) => refuse(error.message),
  });
  const address = make.data && `${window.location.origin}/shown/${make.data.token}`;
  return (
    <section aria-label="By link">
      <h3 className="mt-5 mb-1 font-semibold">By link</h3>
      <p className="text-soft mb-2 text-xs">
        {linked
          ? "Anybody who has the link may look at the piece as it stands, without signing in. A new link ends the one before."
          : "Anybody who has the link may look at the piece as it stands, without signing in."}
      </p>
      {address && (
        <div className="mb-2 flex gap-2">
          <input
            aria-label="Link to the piece"
            readOnly
            value={address}
            onFocus={(event) => event.currentTarget.select()}
            className="border-hair bg-sheet h-8 min-w-0 grow rounded-md border px-2 text-[13px]"
          />
          <Button
            onClick={() =>
              navigator.clipboard.writeText(address).then(
                () => say("The link is copied."),
                () => refuse("The browser does not let it be copied. Copy it by hand."),
              )
            }
          >
            <Copy size={14} aria-hidden /> Copy
          </Button>
        </div>
      )}
      <div className="flex gap-2">
        <Button disabled={make.isPending} onClick={() => make.mutate()}>
          {linked ? "Make a new link" : "Make a link"}
        </Button>
        {linked && (
          <Button kind="quiet" disabled={drop.isPending} onClick={() => drop.mutate()}>
            End the link
          </Button>
        )}
      </div>
    </section>
  );
}
