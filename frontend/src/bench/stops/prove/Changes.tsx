import { Copy, Download } from "lucide-react";

import { useProve } from "../../prove/state";
import { useRehearsal } from "../../prove/useRehearsal";
import { download } from "../../export/download";
import { useBench } from "../../store";
import { proposed } from "../../proposed";
import { Button, SignButton } from "../../../ui/Button";
import { useNotices } from "../../../ui/notices";
import { Fold } from "../parts";

/** More changes than these are summed up. */
const MOST = 40;

/** When to change filament, in words. */
export function Changes() {
  const { data: rehearsed } = useRehearsal();
  const report = rehearsed?.report;
  const name = useBench((s) => s.piece?.name ?? "");
  const { setLayer, setPlaying } = useProve.getState();
  const { say, refuse } = useNotices.getState();
  const { commit } = useBench.getState();
  if (!report || report.bodies.length < 2) return null;
  const fewer = rehearsed.prospects.fewer;
  const { changes } = report;
  const lines = changes.map((change) => change.words);
  const save = () => {
    const url = URL.createObjectURL(new Blob([`${lines.join("\n")}\n`], { type: "text/plain" }));
    download({ url, name: `${name}, filament changes.txt` });
    setTimeout(() => URL.revokeObjectURL(url), 1000);
  };
  const copy = () =>
    navigator.clipboard.writeText(lines.join("\n")).then(
      () => say("The list of changes is on the clipboard."),
      () => refuse("The browser won’t let the list be copied."),
    );
  return (
    <Fold name="Filament changes" side={changes.length ? String(changes.length) : "none"} open>
      {changes.length > 0 && (
        <>
          <ol aria-label="Filament changes" className="border-rule border-t text-[13px]">
            {changes.slice(0, MOST).map((change, i) => (
              <li key={i} className="border-rule border-b">
                <button
                  type="button"
                  onClick={() => {
                    setPlaying(false);
                    setLayer(change.layer - 1);
                  }}
                  className="hover:bg-act-wash w-full px-1 py-1 text-left"
                >
                  {change.words}
                </button>
              </li>
            ))}
          </ol>
          {changes.length > MOST && (
            <p className="text-soft mt-1 text-xs">and {changes.length - MOST} more</p>
          )}
          <div className="mt-1 flex">
            <SignButton label="Copy the list" onClick={() => void copy()}>
              <Copy size={14} />
            </SignButton>
            <SignButton label="Save the list as text" onClick={save}>
              <Download size={14} />
            </SignButton>
          </div>
        </>
      )}
      {fewer.map((one, i) => (
        <div
          key={i}
          className="border-remark bg-remark-wash mt-2 rounded-r-md border-l-4 px-2.5 py-1.5 text-[13px]"
        >
          <p>
            {one.words}:{" "}
            {one.changes === 0 ? "no change" : one.changes === 1 ? "one change" : `${one.changes} changes`}{" "}
            instead of {one.now}.
          </p>
          <Button className="mt-1 h-7!" onClick={() => commit(proposed(one.edit))}>
            Do that
          </Button>
        </div>
      ))}
    </Fold>
  );
}
