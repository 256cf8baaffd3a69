import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, Problem, type SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { ended, WorkBar } from "../../job/operations";
import { count } from "../../job/stubs";
import { followed } from "../../job/useEvents";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";

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
    <div className="flex flex-wrap gap-2 px-3.5 pb-1">
      {sheets.nest_cut_short && <FullSearch seconds={sheet.nest_s ?? 8} />}
      <Button onClick={search}>Try another nest</Button>
      {before && before.seed !== seed && !sheets.nest_waiting && (
        <p className="pt-1 text-[12.5px] text-quiet">
          Now {found}; before {before.told}.{" "}
          <button type="button" className="font-semibold text-act underline" onClick={() => keep("The nest before", { seed: before.seed })}>
            Use the previous nest
          </button>
        </p>
      )}
    </div>
  );
}

/** Searches again, in full, for a nest that was cut short. */
function FullSearch({ seconds }: { seconds: number }) {
  const { job, refresh } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const [operation, setOperation] = useState<number | null>(null);
  const search = async () => {
    try {
      const asked = await call("post_nest", { query: { job: job.id, in_full: true }, body: job.recipe });
      followed(client, job.id, asked);
      setOperation(asked.id);
      await ended(asked);
      refresh();
    } catch (problem) {
      if (!(problem instanceof Problem && problem.status === 409)) tell(problem);
    } finally {
      setOperation(null);
    }
  };
  return (
    <>
      <Button disabled={operation !== null} onClick={() => void search()}>Search the full {seconds} s</Button>
      <WorkBar jobId={job.id} operation={operation} />
    </>
  );
}
