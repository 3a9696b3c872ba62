/** The name of a group, and how many are in it. */
export function Heading({ name, count }: { name: string; count: number | null }) {
  return (
    <div className="mt-3 mb-1 flex items-baseline justify-between px-1.5 first:mt-0">
      <h2 className="text-[15px]">{name}</h2>
      {count !== null && <span className="text-soft">{count}</span>}
    </div>
  );
}
