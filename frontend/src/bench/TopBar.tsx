import { Check, Download, History, Keyboard, Redo2, Undo2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Link } from "react-router";

import { Button, SignButton } from "../ui/Button";
import { Modal } from "../ui/Modal";
import { Mark } from "../ui/Mark";
import { usePresence } from "../people/usePresence";
import { remember } from "./remembered";
import { useBegun, useShown } from "./select";
import { BESIDES, KEYS } from "./keys/table";
import { useKeys } from "./keys/useKeys";
import { STOPS, useBench, type Stop } from "./store";
import { ExportPanel } from "./ExportPanel";

export function TopBar() {
  const piece = useBench((s) => s.piece);
  const { undo, redo, commit } = useBench.getState();
  const begun = useBegun();
  if (!piece) return null;
  const units = piece.document.units;
  return (
    <header className="border-rule col-span-3 flex items-center gap-2 border-b px-4 xl:gap-3">
      <Link to="/" aria-label="drelo: All pieces" className="shrink-0">
        <Mark />
      </Link>
      <PieceName />
      {piece.right === "look" ? (
        <span className="bg-remark-wash text-remark-text shrink-0 rounded px-2 py-0.5 text-[13px] font-semibold">
          to look at
        </span>
      ) : (
        <SavedMark />
      )}
      <Others />
      <StopLine />
      <div className="flex shrink-0 items-center gap-1">
        <SignButton label="Undo" disabled={!piece.can_undo} onClick={undo}>
          <Undo2 size={17} />
        </SignButton>
        <SignButton label="Redo" disabled={!piece.can_redo} onClick={redo}>
          <Redo2 size={17} />
        </SignButton>
        <Link
          to={`/bench/${piece.id}/versions`}
          aria-label="Versions"
          title="Versions"
          className="text-soft hover:bg-act-wash hover:text-ink inline-grid size-8 place-items-center rounded-md"
        >
          <History size={17} />
        </Link>
        <Help />
        <Button
          className="w-12 px-0"
          aria-label={`Units: ${units === "mm" ? "mm, millimetres" : "inch, inches"}. Change them`}
          onClick={() => {
            const next = units === "mm" ? "inch" : "mm";
            // New pieces begin in the maker's units.
            remember("units", next);
            commit({ do: "set-units", units: next });
          }}
        >
          {units === "mm" ? "mm" : "inch"}
        </Button>
        <Popover.Root>
          <Popover.Trigger asChild>
            <Button kind="act" className="ml-1" disabled={!begun}>
              <Download size={15} aria-hidden /> Export
            </Button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              align="end"
              sideOffset={8}
              className="bg-sheet border-rule z-30 max-h-[85vh] w-[320px] overflow-y-auto rounded-lg border p-4 shadow-[0_8px_30px_#0003]"
            >
              <ExportPanel />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
    </header>
  );
}

/** Who else has the piece open. */
function Others() {
  const others = usePresence();
  if (!others.length) return null;
  return (
    <span role="status" title={`Also here: ${others.join(", ")}`} className="flex shrink-0 -space-x-1.5">
      <span className="sr-only">Also here: {others.join(", ")}</span>
      {others.slice(0, 3).map((name) => (
        <span
          key={name}
          aria-hidden
          className="border-paper bg-act text-on-act grid size-6 place-items-center rounded-full border-2 text-[11px] font-bold uppercase"
        >
          {name.slice(0, 1)}
        </span>
      ))}
    </span>
  );
}

function PieceName() {
  const piece = useBench((s) => s.piece);
  const rename = useBench((s) => s.rename);
  const [text, setText] = useState<string | null>(null);
  if (!piece) return null;
  const take = () => {
    if (text?.trim() && text.trim() !== piece.name) void rename(text.trim());
    setText(null);
  };
  return (
    <input
      aria-label="Name of the piece"
      className="font-head hover:border-rule focus:border-act ml-1 h-8 w-44 min-w-28 shrink truncate rounded-md border border-transparent bg-transparent px-1.5 text-[18px] font-semibold outline-none"
      maxLength={120}
      value={text ?? piece.name}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(null);
      }}
    />
  );
}

const SAVED_WORDS = {
  saved: "saved",
  saving: "saving …",
  waiting: "waiting for Drelo",
  refused: "last change not saved",
} as const;

function SavedMark() {
  const saved = useBench((s) => s.saved);
  return (
    <span
      role="status"
      // Told only where it is not as it always is: a word at every edit would be too many.
      aria-live={saved === "waiting" || saved === "refused" ? "polite" : "off"}
      className={`min-w-10 shrink text-[13px] whitespace-nowrap xl:w-[118px] ${saved === "waiting" || saved === "refused" ? "text-remark-text font-semibold" : "text-soft"}`}
    >
      {SAVED_WORDS[saved]}
    </span>
  );
}

/** The way from picture to file: every stop is open at any time. */
function StopLine() {
  const stop = useBench((s) => s.stop);
  const piece = useBench((s) => s.piece);
  const { setStop } = useBench.getState();
  const flat = useShown();
  const remarks = flat?.remarks.length ?? 0;
  const begun = useBegun();
  const traced = Boolean(piece?.document.pictures.length);
  const state = (name: Stop): "done" | "todo" =>
    (name === "Gather" || name === "Trace" ? traced : begun && name !== "Prove") ? "done" : "todo";
  return (
    <nav aria-label="Stops" className="mx-auto flex items-center">
      {STOPS.map((name, i) => (
        <span key={name} className="flex items-center">
          {i > 0 && (
            <span
              aria-hidden
              className={`h-[1.5px] w-1.5 lg:w-2 xl:w-4 2xl:w-7 ${begun ? "bg-act" : "bg-hair"}`}
            />
          )}
          <button
            type="button"
            aria-current={stop === name ? "step" : undefined}
            onClick={() => setStop(name)}
            className={`hover:bg-act-wash flex h-9 items-center gap-1.5 rounded-md px-1.5 xl:px-2 ${stop === name ? "font-head text-[16px] font-semibold" : "text-soft"}`}
          >
            <span
              aria-hidden
              className={`grid size-[17px] place-items-center rounded-full border-[1.5px] text-[10px] font-bold ${
                stop === name
                  ? "border-act bg-act text-on-act shadow-[0_0_0_4px_var(--act-wash)]"
                  : name === "Prove" && remarks
                    ? "border-remark bg-remark-wash text-remark-text"
                    : state(name) === "done"
                      ? "border-act text-act"
                      : "border-hair"
              }`}
            >
              {name === "Prove" && remarks && stop !== name ? (
                remarks
              ) : state(name) === "done" && stop !== name ? (
                <Check size={11} strokeWidth={3} />
              ) : null}
            </span>
            {name}
            <span className="sr-only">
              {name === "Prove" && remarks ? `, ${remarks} remarks` : state(name) === "done" ? ", done" : ""}
            </span>
          </button>
        </span>
      ))}
    </nav>
  );
}

function Help() {
  const [open, setOpen] = useState(false);
  useKeys("bench", { help: () => setOpen(true) });
  return (
    <Modal
      title="Keys"
      open={open}
      onOpenChange={setOpen}
      className="w-[440px]"
      closing
      trigger={
        <SignButton label="Keys">
          <Keyboard size={17} />
        </SignButton>
      }
    >
      <dl className="grid grid-cols-[120px_1fr] gap-y-1.5">
        {[...Object.values(KEYS), ...BESIDES].map(({ keys, does }) => (
          <div key={does} className="contents">
            <dt className="font-semibold">{keys}</dt>
            <dd className="text-soft">{does}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
