import { useId } from "react";

import { fieldOf, fromField } from "./when";

/** A day and time by which something has to be done. */
export function DueField({ label, at, onKeep }: { label: string; at: string | null; onKeep: (at: string | null) => void }) {
  const id = useId();
  return (
    <div className="flex items-center justify-between gap-3 px-3.5 py-1">
      <label htmlFor={id} className="text-quiet">{label}</label>
      <input
        id={id}
        type="datetime-local"
        defaultValue={fieldOf(at)}
        key={at}
        onBlur={(event) => fromField(event.target.value) !== at && onKeep(fromField(event.target.value))}
        className="figure rounded border border-rule bg-paper px-2 py-0.5 text-[13px] focus:border-act"
      />
    </div>
  );
}
