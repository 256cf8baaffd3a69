import { useEffect, useId, useRef, useState } from "react";

/** A colour, kept a moment after the last change: choosers do not say when they are closed. */
export function ColourField({ label, value, onKeep }: { label: string; value: string; onKeep: (colour: string) => void }) {
  const id = useId();
  const [now, setNow] = useState(value);
  const later = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => setNow(value), [value]);
  useEffect(() => () => clearTimeout(later.current), []);
  return (
    <div className="flex items-center justify-between gap-3 px-3.5 py-1">
      <label htmlFor={id} className="text-quiet">{label}</label>
      <span className="flex items-center gap-2">
        <span className="figure text-[12px] text-quiet">{now}</span>
        <input
          id={id}
          type="color"
          value={now}
          onChange={(event) => {
            const next = event.target.value;
            setNow(next);
            clearTimeout(later.current);
            later.current = setTimeout(() => next !== value && onKeep(next), 500);
          }}
          className="h-7 w-10 cursor-pointer rounded border border-rule bg-paper p-0.5"
        />
      </span>
    </div>
  );
}
