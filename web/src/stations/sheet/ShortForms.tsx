import { X } from "lucide-react";
import { useState } from "react";

import type { Labels } from "../../api/client";
import { Button } from "../../ui/Button";

type Shorts = NonNullable<Labels["shorts"]>;

/** What may be written short where the whole does not fit, in the order it is tried. */
export function ShortForms({ shorts, onKeep }: { shorts: Shorts; onKeep: (shorts: Shorts) => void }) {
  const [long, setLong] = useState("");
  const [short, setShort] = useState("");
  const input = "min-w-0 w-full rounded border border-rule bg-paper px-2 py-1 focus:border-act";
  return (
    <div className="px-3.5 py-1">
      <p className="text-quiet">Short forms, where a text does not fit</p>
      <ul aria-label="Short forms">
        {shorts.map((each, at) => (
          <li key={each.long} className="flex items-center gap-1.5 text-[13px]">
            <span className="grow truncate">{each.long} → {each.short}</span>
            <button type="button" aria-label={`Remove ${each.long}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => onKeep(shorts.filter((_, n) => n !== at))}><X size={12} /></button>
          </li>
        ))}
      </ul>
      <form
        className="flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!long.trim()) return;
          onKeep([...shorts, { long: long.trim(), short: short.trim() }]);
          setLong("");
          setShort("");
        }}
      >
        <input aria-label="Long form" placeholder="wildflower" maxLength={80} value={long} onChange={(event) => setLong(event.target.value)} className={input} />
        <input aria-label="Short form" placeholder="wildfl." maxLength={80} value={short} onChange={(event) => setShort(event.target.value)} className={input} />
        <Button type="submit" disabled={!long.trim()}>Add</Button>
      </form>
    </div>
  );
}
