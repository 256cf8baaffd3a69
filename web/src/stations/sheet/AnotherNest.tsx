import { useState } from "react";

import type { SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";

interface Props {
  sheet: SheetRecipe;
  keep: (label: string, changes: Partial<SheetRecipe>) => void;
}

/** Searches from another seed; what was found before can be compared and taken back, for another need not be better. */
export function AnotherNest({ sheet, keep }: Props) {
  const { sheets } = useJob().job;
  const seed = sheet.seed ?? 1;
  const [before, setBefore] = useState<{ seed: number; told: string } | null>(null);
  const found = `${sheets.count} on ${count(sheets.sheets.length, "sheet")}, ${(sheets.used_share * 100).toFixed(1)} %`;
  const search = () => {
    // A search that was interrupted has found nothing to come back to.
    if (!sheets.nest_waiting) setBefore({ seed, told: found });
    keep("Another nest", { seed: (seed % 9999) + 1 });
  };
  return (
    <div className="px-3.5 pb-1">
      <Button onClick={search}>Try another nest</Button>
      {before && before.seed !== seed && !sheets.nest_waiting && (
        <p className="pt-1 text-[12.5px] text-quiet">
          Now {found}; before {before.told}.{" "}
          <button type="button" className="font-semibold text-act underline" onClick={() => keep("The nest before", { seed: before.seed })}>
            Take the one before
          </button>
        </p>
      )}
    </div>
  );
}
