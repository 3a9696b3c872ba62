import type { Row } from "./table";

const WITHOUT_LETTERS: ReadonlySet<string> = new Set([
  "checkbox",
  "radio",
  "range",
  "color",
  "file",
  "button",
  "submit",
]);
/** What Enter and Space press. */
const PRESSED = "button, a[href], summary, [role=button], [role=checkbox], [role=switch], [role=radio]";
/** What arrows move in. */
const STEPPED =
  "input[type=range], input[type=radio], [role=slider], [role=radio], [role=tab], [role=separator], [role=menuitem]";

/** Whether what has the focus takes letters; a check box or a slider does not. */
function takesLetters(target: Element): boolean {
  if (target instanceof HTMLInputElement) return !WITHOUT_LETTERS.has(target.type);
  return target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement;
}

/** Whether what has the focus needs the key for itself. */
export function claims(target: EventTarget | null, key: string, row: Row): boolean {
  if (!(target instanceof HTMLElement)) return false;
  const letters = takesLetters(target);
  // Letters that are not kept yet are taken back one by one; what was kept, as anywhere else.
  if (row.typing) return letters && target.dataset.draft !== undefined && /^[yz]$/i.test(key);
  if (letters || target.closest("[role=dialog]")) return true;
  if (row.control) return false;
  if (key === "Enter" || key === " ") return target.closest(PRESSED) !== null;
  return key.startsWith("Arrow") && target.closest(STEPPED) !== null;
}
