/** How far something is: our own bar, told to those who do not see it too. */
export function Progress({ label, share }: { label: string; share: number }) {
  const percent = Math.round(Math.min(1, Math.max(0, share)) * 100);
  return (
    <div role="progressbar" aria-label={label} aria-valuemin={0} aria-valuemax={100} aria-valuenow={percent} className="my-1 h-1.5 overflow-hidden rounded bg-[#cfd9d4]">
      <div className="h-full rounded bg-act transition-[width]" style={{ width: `${percent}%` }} />
    </div>
  );
}
