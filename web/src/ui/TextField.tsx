import { useEffect, useId, useState } from "react";

/** A line of text, kept when it is left. */
export function TextField({ label, value, hint, max, onKeep }: { label: string; value: string; hint?: string; max: number; onKeep: (text: string) => void }) {
  const id = useId();
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const keep = () => text.trim() !== value && onKeep(text.trim());
  return (
    <div className="px-3.5 py-1">
      <label htmlFor={id} className="block text-quiet">{label}</label>
      <input
        id={id}
        value={text}
        maxLength={max}
        placeholder={hint}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
        className="w-full rounded border border-rule bg-paper px-2 py-1 focus:border-act"
      />
    </div>
  );
}
