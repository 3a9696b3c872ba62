import { Columns3 } from "lucide-react";
import { useState } from "react";

import type { Flat, Picture } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Modal } from "../../../ui/Modal";
import { usePicture, useShown } from "../../select";
import { useBench } from "../../store";
import { useAttempt } from "../../useLookOver";
import { figuresOf, standsNow } from "./figures";
import { SmallTrace } from "./SmallTrace";

type Attempt = Picture["attempts"][number];

/** The trace as it stands and all that were kept, side by side with their figures; one click chooses. */
export function CompareAttempts() {
  const [open, setOpen] = useState(false);
  const picture = usePicture();
  const now = useShown();
  const attempts = picture?.attempts ?? [];
  const unkept = !attempts.some((a) => standsNow(a, picture));
  return (
    <Modal
      title="Compare traces"
      open={open}
      onOpenChange={setOpen}
      className="flex max-h-[90vh] w-[1040px] flex-col"
      closing
      trigger={
        <Button className="mt-1.5 w-full text-[12.5px]">
          <Columns3 size={15} aria-hidden /> Compare side by side
        </Button>
      }
    >
      <ul
        aria-label="Traces side by side"
        className="grid grid-cols-[repeat(auto-fit,minmax(300px,1fr))] gap-3 overflow-y-auto"
      >
        {unkept && <Shown name="As it is now" flat={now} stands />}
        {attempts.map((attempt) => (
          <Kept key={attempt.id} attempt={attempt} close={() => setOpen(false)} />
        ))}
      </ul>
    </Modal>
  );
}

function Kept({ attempt, close }: { attempt: Attempt; close: () => void }) {
  const picture = usePicture();
  const flat = useAttempt(attempt.id);
  const commit = useBench((s) => s.commit);
  return (
    <Shown
      name={attempt.name}
      flat={flat}
      stands={standsNow(attempt, picture)}
      onChoose={() => {
        commit({ do: "choose-attempt", picture: picture?.id ?? null, id: attempt.id });
        close();
      }}
    />
  );
}

function Shown({
  name,
  flat,
  stands,
  onChoose,
}: {
  name: string;
  flat: Flat | null | undefined;
  stands: boolean;
  onChoose?: () => void;
}) {
  const figures = flat ? figuresOf(flat) : null;
  return (
    <li className={`bg-sheet rounded-md border p-2.5 ${stands ? "border-act" : "border-rule"}`}>
      <div className="grid h-60 place-items-center">
        {flat ? (
          <SmallTrace flat={flat} label={`${name}, as a picture`} className="h-60 w-full" />
        ) : (
          <span className="text-soft">tracing …</span>
        )}
      </div>
      <p className="pt-2 font-semibold">{name}</p>
      <dl className="text-soft grid grid-cols-3 gap-2 pt-1 text-[13px]">
        {(["outlines", "nodes", "corners"] as const).map((what) => (
          <div key={what}>
            <dt className="inline">{what} </dt>
            <dd className="text-ink inline tabular-nums">{figures ? figures[what] : "…"}</dd>
          </div>
        ))}
      </dl>
      <div className="pt-2">
        {stands || !onChoose ? (
          <p className="text-act flex h-8 items-center text-[13px]">current</p>
        ) : (
          <Button className="w-full" aria-label={`Choose ${name}`} onClick={onChoose}>
            Choose this one
          </Button>
        )}
      </div>
    </li>
  );
}
