import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, type Offer, type SheetRecipe, type Sheets } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { placesOf } from "./places";

/** What still fits on the last sheet: more of these pieces, small ones of other jobs, or a later job. */
export function Rest({ sheets, keep }: { sheets: Sheets; keep: (label: string, changes: Partial<SheetRecipe>) => void }) {
  const { job, change } = useJob();
  const [open, setOpen] = useState(false);
  const { data, isFetching } = useQuery({
    queryKey: ["rest", job.id, job.revision],
    enabled: open,
    queryFn: ({ signal }) => call("post_rest", { signal, body: job.recipe }),
    staleTime: Infinity,
  });
  const add = (offer: Offer) =>
    void change(`${offer.more} more ${offer.name}`, (before) => {
      const designs = before.designs ?? [];
      const grown = offer.recipe
        ? [...designs, { ...offer.recipe, copies: offer.more }]
        : designs.map((each) => (each.id === offer.design && !before.sheet?.fill ? { ...each, copies: (each.copies ?? 1) + offer.more } : each));
      return { ...before, designs: grown, sheet: { ...before.sheet!, method: "hand", placements: [...placesOf(sheets), ...offer.placements] } };
    });
  return (
    <Fold title="Fill the rest of the sheet" onOpen={setOpen}>
      {/* Above what comes later: a button does not move away under a click. */}
      {job.recipe.sheet?.card == null && sheets.roll_mm == null && <Later keep={keep} />}
      {isFetching && <p className="px-3.5 pb-1 text-quiet">Looking for room …</p>}
      {data?.length === 0 && <p className="px-3.5 pb-1 text-quiet">Nothing more of this job or of the last ones fits on the last sheet.</p>}
      <ul aria-label="Fill the rest of the sheet" className="px-3.5">
        {data?.map((offer) => (
          <li key={offer.design} className="flex items-center gap-2 py-0.5">
            <span className="min-w-0 grow truncate">{offer.more} × {offer.name}{offer.recipe ? ", of another job" : ""}</span>
            <Button aria-label={`Add ${offer.more} ${offer.name}`} onClick={() => add(offer)}>Add</Button>
          </li>
        ))}
      </ul>
    </Fold>
  );
}

/** A part of a sheet that is kept for a later job, or that an earlier one has used. */
function Later({ keep }: { keep: (label: string, changes: Partial<SheetRecipe>) => void }) {
  const { job, afterChanges } = useJob();
  const { length } = useUnits();
  const tell = useNotice();
  const go = useNavigate();
  const sheet = job.recipe.sheet!;
  const begin = async () => {
    try {
      const made = await afterChanges(() => call("post_remainder", { path: { job_id: job.id } }));
      void go(`/jobs/${made.id}/artwork`);
    } catch (problem) {
      tell(problem);
    }
  };
  return (
    <>
      <LengthField label="Used before, at the head" mm={sheet.from_mm ?? 0} min={0} max={250} reach={200} step={1} onKeep={(mm) => keep(mm ? `From ${length(mm, 0)} on` : "From the top edge", { from_mm: mm })} />
      {sheet.until_mm != null && (
        <div className="px-3.5 pb-1">
          <p className="text-quiet">What is below {length(sheet.until_mm, 0)} stays bare and can be printed on later. Load the sheet the same way round then; take off what is loose first.</p>
          <p className="flex flex-wrap gap-1.5 py-1">
            <Button onClick={() => void begin()}>A job for the rest</Button>
            <Button kind="quiet" onClick={() => keep("The whole sheet", { until_mm: null })}>Use the whole sheet</Button>
          </p>
        </div>
      )}
    </>
  );
}
