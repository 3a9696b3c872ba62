import { Check, Columns2, X } from "lucide-react";

import type { Picture } from "../../../api/client";
import { Button, SignButton } from "../../../ui/Button";
import { freshId } from "../../ids";
import { usePicture } from "../../select";
import { useBench } from "../../store";
import { useAttempt } from "../../useLookOver";
import { Section } from "../parts";
import { CompareAttempts } from "./CompareAttempts";
import { figuresOf, standsNow, told } from "./figures";
import { SmallTrace } from "./SmallTrace";

type Attempt = Picture["attempts"][number];

/** Trial traces that were kept: compare them side by side or by wipe, and choose one. */
export function Attempts() {
  const picture = usePicture();
  const commit = useBench((s) => s.commit);
  const attempts = picture?.attempts ?? [];
  return (
    <Section name="Attempts" side={attempts.length ? String(attempts.length) : undefined}>
      {attempts.length > 0 && (
        <ul aria-label="Attempts" className="border-rule mb-1.5 border-t">
          {attempts.map((attempt) => (
            <AttemptRow key={attempt.id} attempt={attempt} />
          ))}
        </ul>
      )}
      <Button
        className="w-full text-[12.5px]"
        onClick={() => commit({ do: "keep-attempt", picture: picture?.id ?? null, id: freshId("t") })}
      >
        Keep the trace as an attempt
      </Button>
      {attempts.length > 0 && <CompareAttempts />}
      {!attempts.length && (
        <p className="text-soft pt-1 text-xs">Then try other settings, compare, and choose.</p>
      )}
    </Section>
  );
}

function AttemptRow({ attempt }: { attempt: Attempt }) {
  const picture = usePicture();
  const flat = useAttempt(attempt.id);
  const compared = useBench((s) => s.compared === attempt.id && s.wipe !== null);
  const wipe = useBench((s) => s.wipe);
  const { commit, setWipe } = useBench.getState();
  const stands = standsNow(attempt, picture);
  return (
    <li className="border-rule grid grid-cols-[48px_1fr_auto] items-center gap-2 border-b py-1.5">
      <span className="border-rule bg-sheet grid size-12 place-items-center rounded border">
        {flat && <SmallTrace flat={flat} label={`${attempt.name}, small picture`} className="size-[42px]" />}
      </span>
      <span className="min-w-0">
        <span className="block text-[13px] leading-tight">{attempt.name}</span>
        <span className="text-soft text-xs">{stands ? "current" : flat ? told(figuresOf(flat)) : "…"}</span>
      </span>
      <span className="flex">
        <SignButton
          label={`Compare ${attempt.name} by wipe`}
          pressed={compared}
          className="size-7!"
          onClick={() => (compared ? setWipe(null, null) : setWipe(wipe ?? 0.5, attempt.id))}
        >
          <Columns2 size={14} />
        </SignButton>
        <SignButton
          label={`Choose ${attempt.name}`}
          disabled={stands}
          className="size-7!"
          onClick={() => commit({ do: "choose-attempt", picture: picture?.id ?? null, id: attempt.id })}
        >
          <Check size={14} />
        </SignButton>
        <SignButton
          label={`Remove ${attempt.name}`}
          className="size-7!"
          onClick={() => {
            if (compared) setWipe(null, null);
            commit({ do: "drop-attempt", picture: picture?.id ?? null, id: attempt.id });
          }}
        >
          <X size={14} />
        </SignButton>
      </span>
    </li>
  );
}
