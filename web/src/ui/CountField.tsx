import { useId } from "react";

import { useTyped } from "./useTyped";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  disabled?: boolean;
  /** Its label is heard, not seen. */
  quiet?: boolean;
  onKeep: (value: number) => void;
}

/** A whole number with one more and one less. */
export function CountField({ label, value, min, max, disabled, quiet = false, onKeep }: Props) {
  const id = useId();
  const within = (typed: number) => Math.min(max, Math.max(min, Math.round(typed)));
  const { text, setText, restore, input } = useTyped(String(value), (typed) => {
    const kept = within(Number(typed));
    if (Number.isFinite(kept) && kept !== value) onKeep(kept);
    else restore();
  });
  const shown = Number.isFinite(Number(text)) ? Number(text) : value;
  /** Counted from what is shown: a second click goes on from the first before its answer is there. */
  const step = (by: number) => {
    const kept = within(shown + by);
    setText(String(kept));
    if (kept !== shown) onKeep(kept);
  };
  const button = "size-6 rounded border border-rule bg-paper leading-none hover:border-act disabled:text-rule";
  return (
    <div className={`flex items-center gap-3 px-3.5 py-1 ${quiet ? "justify-end" : "justify-between"}`}>
      <label htmlFor={id} title={label} className={quiet ? "sr-only" : "min-w-0 truncate text-quiet"}>{label}</label>
      <span className="flex shrink-0 items-center gap-1">
        <button type="button" className={button} aria-label={`One less: ${label}`} disabled={disabled || shown <= min} onClick={() => step(-1)}>−</button>
        <input
          id={id}
          {...input}
          disabled={disabled}
          inputMode="numeric"
          onFocus={(event) => event.target.select()}
          className="figure w-14 rounded border border-rule bg-paper px-2 py-0.5 text-right text-[13px] disabled:text-quiet"
        />
        <button type="button" className={button} aria-label={`One more: ${label}`} disabled={disabled || shown >= max} onClick={() => step(1)}>+</button>
      </span>
    </div>
  );
}
