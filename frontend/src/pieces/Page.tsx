import { useEffect, type ReactNode } from "react";
import { Link } from "react-router";

import { Mark } from "../ui/Mark";

type Props = {
  title: string;
  back?: { to: string; name: string };
  /** Whether what is on it fills it to the edges. */
  full?: boolean;
  children: ReactNode;
};

/** A page beside the bench: its title above, and the way back, to all pieces where nothing else is said. */
export function Page({ title, back = { to: "/", name: "All pieces" }, full, children }: Props) {
  useEffect(() => {
    document.title = `${title} · Drelo`;
    return () => {
      document.title = "Drelo";
    };
  }, [title]);
  return (
    <div className="flex h-full flex-col">
      <header className="border-rule flex h-14 shrink-0 items-center gap-6 border-b px-6">
        <Link to="/" aria-label="drelo: All pieces">
          <Mark />
        </Link>
        <h1 className="min-w-0 truncate text-xl">{title}</h1>
        <span className="grow" />
        <Link to={back.to} className="text-act font-semibold hover:underline">
          {back.name}
        </Link>
      </header>
      <main className={`min-h-0 grow ${full ? "overflow-x-auto" : "overflow-y-auto px-6 py-6"}`}>
        {children}
      </main>
    </div>
  );
}
