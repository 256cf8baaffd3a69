import { useId } from "react";

import { useTyped } from "./useTyped";

/** A line of text, kept when it is left. */
export function TextField({ label, value, hint, max, onKeep }: { label: string; value: string; hint?: string; max: number; onKeep: (text: string) => void }) {
  const id = useId();
  const { input } = useTyped(value, (text) => text.trim() !== value && onKeep(text.trim()));
  return (
    <div className="px-3.5 py-1">
      <label htmlFor={id} className="block text-quiet">{label}</label>
      <input
        id={id}
        {...input}
        maxLength={max}
        placeholder={hint}
        className="w-full rounded border border-rule bg-paper px-2 py-1 focus:border-act"
      />
    </div>
  );
}
