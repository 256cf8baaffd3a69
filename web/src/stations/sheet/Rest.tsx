import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Offer, type Sheets } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { placesOf } from "./places";

/** What still fits on the last sheet: more of these pieces, or small ones of other jobs. */
export function Rest({ sheets }: { sheets: Sheets }) {
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
    <Fold title="What fits on the rest" onOpen={setOpen}>
      {isFetching && <p className="px-3.5 pb-1 text-quiet">Looking for room …</p>}
      {data?.length === 0 && <p className="px-3.5 pb-1 text-quiet">Nothing more of this job or of the last ones fits on the last sheet.</p>}
      <ul aria-label="What fits on the rest" className="px-3.5">
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
