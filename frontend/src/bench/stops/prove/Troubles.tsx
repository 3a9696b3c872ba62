import { useProve } from "../../prove/state";
import { useRehearsal } from "../../prove/useRehearsal";
import { troubleWords } from "../../prove/words";
import { useUnits } from "../../select";
import { lengths, Section } from "../parts";

/** So many are listed; the layers mark all. */
const MOST = 40;

/** What will not print as it is drawn, measured on the layers; each leads to its place. */
export function Troubles() {
  const { data: rehearsed } = useRehearsal();
  const at = useProve((s) => s.trouble);
  const units = useUnits();
  const { setTrouble, setLayer, setPlaying } = useProve.getState();
  const troubles = rehearsed?.report.troubles;
  if (!troubles) return null;
  const notation = lengths(units);
  const mm = (value: number) => `${notation.format(value)} ${notation.unit}`;
  return (
    <Section name="What won’t print" side={troubles.length ? String(troubles.length) : "nothing"}>
      {troubles.length === 0 && (
        <p className="text-soft text-xs">Every part has its lines, stands on something and fits the bed.</p>
      )}
      {troubles.length > 0 && (
        <ul aria-label="What won’t print" className="border-rule border-t">
          {troubles.slice(0, MOST).map((trouble, i) => (
            <li key={i} className="border-rule border-b">
              <button
                type="button"
                aria-pressed={at === i}
                onClick={() => {
                  setPlaying(false);
                  setLayer(trouble.first - 1);
                  setTrouble(at === i ? null : i);
                }}
                className="hover:bg-act-wash aria-pressed:bg-act-wash flex h-8 w-full items-center justify-between gap-2 px-1.5 text-left"
              >
                <span>{troubleWords(trouble, mm).name}</span>
                <span className="text-soft text-xs tabular-nums">layer {trouble.first}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {troubles.length > MOST && <p className="text-soft mt-1 text-xs">and {troubles.length - MOST} more</p>}
    </Section>
  );
}
