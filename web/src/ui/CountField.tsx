import { useEffect, useId, useState } from "react";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  disabled?: boolean;
  onKeep: (value: number) => void;
}

/** A whole number with one more and one less. */
export function CountField({ label, value, min, max, disabled, onKeep }: Props) {
  const id = useId();
  const [text, setText] = useState(String(value));
  useEffect(() => setText(String(value)), [value]);
  const keep = (typed: number) => {
    const kept = Math.min(max, Math.max(min, Math.round(typed)));
    if (Number.isFinite(typed) && kept !== value) onKeep(kept);
    else setText(String(value));
  };
  const button = "size-6 rounded border border-rule bg-paper leading-none hover:border-act disabled:text-rule";
  return (
    <div className="flex items-center justify-between gap-3 px-3.5 py-1">
      <label htmlFor={id} className="min-w-0 truncate text-quiet">{label}</label>
      <span className="flex shrink-0 items-center gap-1">
        <button type="button" className={button} aria-label={`One less: ${label}`} disabled={disabled || value <= min} onClick={() => keep(value - 1)}>−</button>
        <input
          id={id}
          value={text}
          disabled={disabled}
          inputMode="numeric"
          onChange={(event) => setText(event.target.value)}
          onFocus={(event) => event.target.select()}
          onBlur={() => keep(Number(text))}
          onKeyDown={(event) => event.key === "Enter" && keep(Number(text))}
          className="figure w-14 rounded border border-rule bg-paper px-2 py-0.5 text-right text-[13px] disabled:text-quiet"
        />
        <button type="button" className={button} aria-label={`One more: ${label}`} disabled={disabled || value >= max} onClick={() => keep(value + 1)}>+</button>
      </span>
    </div>
  );
}
