import { useId } from "react";

interface Props {
  label: string;
  value: string;
  options: { value: string; label: string }[];
  onChange: (value: string) => void;
}

/** One of many, by name. */
export function Select({ label, value, options, onChange }: Props) {
  const id = useId();
  return (
    <div className="flex items-center justify-between gap-3 px-3.5 py-1">
      <label htmlFor={id} className="text-quiet">{label}</label>
      <select id={id} value={value} onChange={(event) => onChange(event.target.value)} className="min-w-0 max-w-[190px] truncate rounded-md border border-rule bg-paper px-2 py-1 hover:border-act">
        {options.map((option) => <option key={option.value} value={option.value}>{option.label}</option>)}
      </select>
    </div>
  );
}
