import { useQuery } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { Link } from "react-router";

import { api, data, type Schemas } from "../api/client";
import { Button, SignButton } from "../ui/Button";
import { NumberField, PLAIN, TextField, type Notation } from "../ui/fields";
import { Section } from "../bench/stops/parts";
import { withThings, type Plan, type PlanOut, type usePlan } from "./usePlan";

type Props = {
  laid: PlanOut;
  plan: Plan;
  printers: readonly Schemas["Printer-Output"][];
  notation: Notation;
  change: ReturnType<typeof usePlan>["change"];
};

const WHOLE: Notation = { ...PLAIN, format: (value) => String(Math.round(value)) };

/** Which pieces are laid, how many of each, on which printer. */
export function PlanSettings({ laid, plan, printers, notation, change }: Props) {
  const shelf = useQuery({
    queryKey: ["pieces"],
    queryFn: async ({ signal }) => (await data(api.GET("/api/pieces", { signal }))).pieces,
  });
  const others = (shelf.data ?? []).filter(
    (one) => !one.empty && !plan.things.some((t) => t.piece === one.id),
  );
  return (
    <>
      <Section name="Plan">
        <div className="space-y-1.5">
          <TextField
            label="Name"
            maxLength={120}
            value={plan.name}
            onCommit={(name) => name && change((now) => ({ ...now, name }))}
          />
          <label className="grid grid-cols-[1fr_150px] items-center">
            Printer
            <select
              aria-label="Printer"
              value={plan.printer}
              onChange={(event) => {
                const printer = event.target.value;
                change((now) => ({ ...now, printer }), "unlocked");
              }}
              className="border-hair bg-sheet h-8 rounded-md border px-1.5"
            >
              {printers.map((printer) => (
                <option key={printer.id} value={printer.id}>
                  {printer.name}
                </option>
              ))}
            </select>
          </label>
          <NumberField
            label="Spacing"
            value={plan.spacing}
            notation={notation}
            min={0}
            max={100}
            step={1}
            onCommit={(spacing) => change((now) => ({ ...now, spacing }), "unlocked")}
          />
        </div>
        <Button className="mt-2 w-full" onClick={() => change((now) => now, "unlocked")}>
          Pack again
        </Button>
        <p className="text-soft mt-1 text-[12.5px]">
          Copies that you move are pinned, and stay where they are.
        </p>
      </Section>
      <Section name="Pieces" side={String(plan.things.length)}>
        <ul aria-label="Pieces on the beds" className="border-rule border-t">
          {plan.things.map((thing, i) => {
            const piece = laid.plan.things[i]?.piece === thing.piece ? laid.pieces[i] : undefined;
            const title = piece?.title ?? shelf.data?.find((one) => one.id === thing.piece)?.name ?? "…";
            return (
              <li key={thing.piece} className="border-rule border-b py-1.5">
                <div className="flex items-center gap-1">
                  <Link
                    to={`/bench/${thing.piece}`}
                    className="min-w-0 grow truncate font-medium hover:underline"
                  >
                    {title}
                  </Link>
                  <SignButton
                    label={`Remove ${title} from the beds`}
                    className="size-7!"
                    disabled={plan.things.length === 1}
                    onClick={() =>
                      change((now) =>
                        withThings(
                          now,
                          now.things.filter((t) => t.piece !== thing.piece),
                        ),
                      )
                    }
                  >
                    <Trash2 size={14} />
                  </SignButton>
                </div>
                {piece?.missing ? (
                  <p className="text-error text-[12.5px]">{piece.missing}</p>
                ) : (
                  <NumberField
                    label="Copies"
                    value={thing.copies}
                    notation={WHOLE}
                    min={1}
                    max={200}
                    step={1}
                    onCommit={(value) => {
                      const copies = Math.round(value);
                      const to = (t: Plan["things"][number]) =>
                        t.piece === thing.piece ? { ...t, copies } : t;
                      change((now) => withThings(now, now.things.map(to)), "unlocked");
                    }}
                  />
                )}
              </li>
            );
          })}
        </ul>
        {others.length > 0 && (
          <select
            aria-label="Add a piece"
            value=""
            onChange={(event) => {
              const piece = event.target.value;
              if (piece) change((now) => withThings(now, [...now.things, { piece, copies: 1 }]), "unlocked");
            }}
            className="border-hair bg-sheet mt-2 h-8 w-full rounded-md border px-1.5"
          >
            <option value="">Add a piece …</option>
            {others.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        )}
      </Section>
    </>
  );
}
