import { useVirtualizer } from "@tanstack/react-virtual";
import {
  createContext,
  useContext,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type ReactNode,
} from "react";

/** What a list is scrolled in. */
const Scrolled = createContext<HTMLElement | null>(null);
export const Scroller = Scrolled.Provider;

/** From so many rows on only those in view, and some round them, are drawn. */
const MANY = 80;
const ROUND = 12;
/** How high a row is, px. */
const HIGH = 46;

type Props<Item> = {
  items: readonly Item[];
  children: (item: Item) => ReactNode;
  label?: string;
  /** Which item is to be in view when that changes. */
  isAt?: (item: Item) => boolean;
};

/** A list of rows of one height: all can be scrolled to, however many there are. */
export function Rows<Item extends { id: string }>({ items, children, label, isAt }: Props<Item>) {
  if (items.length > MANY)
    return (
      <Many items={items} label={label} isAt={isAt}>
        {children}
      </Many>
    );
  return (
    <ul aria-label={label} className="-mx-0.5">
      {items.map((item) => (
        <li key={item.id}>{children(item)}</li>
      ))}
    </ul>
  );
}

function Many<Item extends { id: string }>({ items, children, label, isAt }: Props<Item>) {
  const scroller = useContext(Scrolled);
  const list = useRef<HTMLUListElement>(null);
  const [above, setAbove] = useState(0);
  // eslint-disable-next-line react-hooks/exhaustive-deps -- measured at every drawing; it settles at once
  useLayoutEffect(() => {
    if (!list.current || !scroller) return;
    const [top, from] = [list.current, scroller].map((e) => e.getBoundingClientRect().top);
    // What stands above the list grows and shrinks.
    setAbove(Math.round((top ?? 0) - (from ?? 0) + scroller.scrollTop));
  });
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller,
    estimateSize: () => HIGH,
    overscan: ROUND,
    useFlushSync: false,
    scrollMargin: above,
    getItemKey: (i) => items[i]?.id ?? i,
  });
  const at = isAt ? items.findIndex(isAt) : -1;
  const latest = useRef(rows);
  useEffect(() => {
    latest.current = rows;
  });
  useEffect(() => {
    // Where the hand is in the list, it stays.
    if (at >= 0 && !list.current?.contains(document.activeElement)) latest.current.scrollToIndex(at);
  }, [at]);
  return (
    <ul ref={list} aria-label={label} className="relative -mx-0.5" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map((row) => {
        const item = items[row.index];
        return (
          item && (
            <li
              key={row.key}
              aria-setsize={items.length}
              aria-posinset={row.index + 1}
              className="absolute inset-x-0"
              style={{ top: row.start - above, height: HIGH }}
            >
              {children(item)}
            </li>
          )
        );
      })}
    </ul>
  );
}
