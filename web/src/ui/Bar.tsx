/** A share as a bar, told in words too. */
export function Bar({ share, label, tone = "bg-act" }: { share: number; label: string; tone?: string }) {
  return (
    <span role="img" aria-label={label} title={label} className="my-1 block h-1.5 overflow-hidden rounded bg-[#dfe6e2]">
      <span className={`block h-full rounded ${tone}`} style={{ width: `${Math.min(100, Math.max(0, share * 100))}%` }} />
    </span>
  );
}
