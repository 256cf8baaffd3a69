import { useState } from "react";

import { api, ask, type Design, type Schemas } from "../../api/client";
import { useJob } from "../../job/job";
import { newTicket, WorkBar } from "../../job/operations";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

type Answer = Schemas["NestedSize"];

/** How large a piece can be so that so many are nested on a sheet: searched when it is asked. */
export function NestedSize({ design, up }: { design: Design; up: number }) {
  const { job, change } = useJob();
  const { length } = useUnits();
  const tell = useNotice();
  const [ticket, setTicket] = useState<string | null>(null);
  const [answer, setAnswer] = useState<Answer | null>(null);
  const search = () => {
    const own = newTicket();
    setTicket(own);
    void ask<Answer>(api.POST("/api/sheets/nested-size", { headers: { "X-Ticket": own }, body: { recipe: job.recipe, design: design.id, up, orders: {} } }))
      .then(setAnswer, tell)
      .finally(() => setTicket(null));
  };
  const size = answer?.largest_mm ?? null;
  return (
    <>
      <WorkBar ticket={ticket} stop="Take the best so far" />
      {answer && <Reading label="Nested, longest side">{size === null ? "never fits" : length(size)}</Reading>}
      <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
        {!answer && <Button disabled={ticket !== null} onClick={search}>How large when nested</Button>}
        {size !== null && answer?.sheet && (job.recipe.designs ?? []).length === 1 && (
          <Button
            onClick={() =>
              void change(`${design.name} ${length(size)}, ${up} nested`, (before) => ({
                ...before,
                sheet: answer.sheet!,
                designs: (before.designs ?? []).map((each) => ({ ...each, longest_mm: size, copies: up })),
              }))
            }
          >
            Make it {length(size)}, nested
          </Button>
        )}
      </p>
    </>
  );
}
