/** How much of the picture is of each tone, what would be ink first at the left, and where the level parts it. */
export function Tones({ tones, level }: { tones: readonly number[]; level: number }) {
  if (!tones.length) return null;
  const step = 100 / tones.length;
  return (
    <svg
      role="img"
      aria-label={`Tones of the picture; the level is at ${Math.round(level * 100)} %`}
      viewBox="0 0 100 26"
      preserveAspectRatio="none"
      className="bg-sheet border-rule mb-1 block h-9 w-full rounded border"
    >
      {tones.map((tone, i) => (
        <rect
          key={i}
          x={i * step}
          y={26 - tone * 24}
          width={step * 0.9}
          height={tone * 24}
          fill={(i + 0.5) / tones.length <= level ? "var(--ink)" : "var(--hair)"}
        />
      ))}
      <line
        x1={level * 100}
        x2={level * 100}
        y1={0}
        y2={26}
        stroke="var(--act)"
        strokeWidth={1.5}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
