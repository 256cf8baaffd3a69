import { ChevronLeft, ChevronRight } from "lucide-react";

/** Which sheet is on the light table. */
export function SheetPager({ number, count, onTurn }: { number: number; count: number; onTurn: (number: number) => void }) {
  if (count < 2) return null;
  const button = "rounded border border-rule bg-paper p-1 hover:border-act disabled:text-rule disabled:hover:border-rule";
  return (
    <div className="flex items-center justify-between gap-2 px-3.5 py-1">
      <span className="text-quiet">On the table</span>
      <span className="flex items-center gap-2">
        <button type="button" aria-label="Previous sheet" className={button} disabled={number === 0} onClick={() => onTurn(number - 1)}><ChevronLeft size={15} /></button>
        <span className="figure text-[13px] whitespace-nowrap">sheet {number + 1} of {count}</span>
        <button type="button" aria-label="Next sheet" className={button} disabled={number >= count - 1} onClick={() => onTurn(number + 1)}><ChevronRight size={15} /></button>
      </span>
    </div>
  );
}
