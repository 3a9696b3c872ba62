/** The name, with its drop of marigold. */
export function Mark() {
  return (
    <span className="font-head text-act text-[23px] leading-none font-bold tracking-[-0.03em]">
      drelo
      <i
        className="bg-remark ml-0.5 inline-block size-[9px] -translate-y-px rounded-[50%_50%_50%_0]"
        aria-hidden
      />
    </span>
  );
}
