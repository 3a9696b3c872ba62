import { useQuery } from "@tanstack/react-query";

type Ready = { room: "plenty" | "little" | "none"; free: number | null };

const EVERY = 20_000;

/** Says early that the disk fills up, and what still works when it is full. */
export function RoomBanner() {
  const ready = useQuery({
    queryKey: ["ready"],
    queryFn: async ({ signal }) => (await (await fetch("/api/ready", { signal })).json()) as Ready,
    refetchInterval: EVERY,
    retry: false,
  });
  const { room, free } = ready.data ?? { room: "plenty", free: null };
  if (room !== "little" && room !== "none") return null;
  return (
    <div
      role="status"
      className="bg-remark-wash text-remark-text border-remark border-t px-4 py-1.5 text-center font-medium"
    >
      {room === "none"
        ? "The disk is full. You can look, export and delete; nothing else is kept until there is room again."
        : `The disk is nearly full${free === null ? "" : `: ${Math.round(free / 2 ** 20)} MB left`}. Delete pieces or other files soon.`}
    </div>
  );
}
