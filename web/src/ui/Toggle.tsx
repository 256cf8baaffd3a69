import { Switch } from "radix-ui";
import { useId } from "react";

/** On or off, kept at once. */
export function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  const id = useId();
  return (
    <div className="flex items-center justify-between gap-3 px-3.5 py-1">
      <label htmlFor={id} className="text-quiet">{label}</label>
      <Switch.Root id={id} checked={on} onCheckedChange={onChange} className="h-5 w-9 shrink-0 rounded-full bg-[#b9c6c0] data-[state=checked]:bg-act">
        <Switch.Thumb className="block size-4 translate-x-0.5 rounded-full bg-white transition-transform data-[state=checked]:translate-x-[18px]" />
      </Switch.Root>
    </div>
  );
}
