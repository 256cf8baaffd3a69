import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Design, type Schemas } from "../../api/client";
import { useJob } from "../../job/job";
import { ended, WorkBar } from "../../job/operations";
import { followed } from "../../job/useEvents";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

/** How large a piece can be so that so many are nested on a sheet: searched when it is asked. */
export function NestedSize({ design, up }: { design: Design; up: number }) {
  const { job, change } = useJob();
  const client = useQueryClient();
  const { length } = useUnits();
  const tell = useNotice();
  const [operation, setOperation] = useState<number | null>(null);
  const [answer, setAnswer] = useState<Schemas["NestedSize"] | null>(null);
  const search = async () => {
    try {
      const asked = await call("post_nested_size", { query: { job: job.id }, body: { recipe: job.recipe, design: design.id, up, orders: {} } });
      followed(client, job.id, asked);
      setOperation(asked.id);
      await ended(asked);
      setAnswer(await call("get_nested_size", { path: { operation_id: asked.id } }));
    } catch (problem) {
      tell(problem);
    }
    setOperation(null);
  };
  const size = answer?.largest_mm ?? null;
  return (
    <>
      <WorkBar jobId={job.id} operation={operation} stop="Take the best so far" how="best" />
      {answer && <Reading label="Nested, longest side">{size === null ? "never fits" : length(size)}</Reading>}
      <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
        {!answer && <Button disabled={operation !== null} onClick={() => void search()}>How large when nested</Button>}
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
