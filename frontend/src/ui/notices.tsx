import { X } from "lucide-react";
import { Toast } from "radix-ui";
import { create } from "zustand";

export type Notice = {
  id: number;
  kind: "said" | "refused";
  text: string;
  action?: { name: string; run: () => void } | undefined;
};

type Notices = {
  list: Notice[];
  say: (text: string, action?: Notice["action"]) => void;
  refuse: (text: string) => void;
  drop: (id: number) => void;
};

let last = 0;

const MOST = 3;

/**
 * With one notice more. The same words are not said twice at once; an error takes away what was said before it, and is
 * not pushed out by what is said after it.
 */
export function withNotice(list: readonly Notice[], notice: Notice): Notice[] {
  const stay = list.filter(
    (n) => n.text !== notice.text && !(notice.kind === "refused" && n.kind === "said"),
  );
  const all = [...stay, notice];
  while (all.length > MOST) {
    const said = all.findIndex((n) => n.kind === "said" && n !== notice);
    all.splice(Math.max(said, 0), 1);
  }
  return all;
}

export const useNotices = create<Notices>((set) => ({
  list: [],
  say: (text, action) =>
    set((s) => ({ list: withNotice(s.list, { id: ++last, kind: "said", text, action }) })),
  refuse: (text) => set((s) => ({ list: withNotice(s.list, { id: ++last, kind: "refused", text }) })),
  drop: (id) => set((s) => ({ list: s.list.filter((n) => n.id !== id) })),
}));

/** Short news at the lower edge; what was refused stays until it is read. */
export function NoticeBoard() {
  const { list, drop } = useNotices();
  return (
    <Toast.Provider swipeDirection="down">
      {list.map((notice) => (
        <Toast.Root
          key={notice.id}
          duration={notice.kind === "refused" ? 60_000 : 8_000}
          onOpenChange={(open) => !open && drop(notice.id)}
          className={`bg-sheet flex items-start gap-3 rounded-md border-l-4 py-2.5 pr-2 pl-3.5 shadow-[0_4px_18px_#0003] ${notice.kind === "refused" ? "border-error" : "border-act"}`}
        >
          <Toast.Description className="grow pt-1">{notice.text}</Toast.Description>
          {notice.action && (
            <Toast.Action altText={notice.action.name} asChild>
              <button
                type="button"
                className="text-act hover:bg-act-wash rounded px-2 py-1 font-semibold"
                onClick={notice.action.run}
              >
                {notice.action.name}
              </button>
            </Toast.Action>
          )}
          <Toast.Close
            aria-label="Close this notice"
            className="text-soft hover:text-ink grid size-7 shrink-0 place-items-center"
          >
            <X size={15} />
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport
        label="Notices ({hotkey})"
        className="fixed bottom-11 left-1/2 z-50 flex w-[440px] max-w-[90vw] -translate-x-1/2 flex-col gap-2"
      />
    </Toast.Provider>
  );
}
