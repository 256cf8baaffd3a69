import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { call, Problem } from "../api/client";
import { useJob } from "../job/job";
import { ended, stopOperation, WorkBar } from "../job/operations";
import { followed } from "../job/useEvents";
import { useNotice } from "../ui/Notice";

const REST_MS = 500;

/** Has the nest searched that a job asks for, as soon as nothing changes any more; rows stand in its place meanwhile. */
export function Nesting() {
  const { job, refresh } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const [operation, setOperation] = useState<number | null>(null);
  const waiting = job.sheets.nest_waiting;
  const { id, revision, recipe } = job;
  useEffect(() => {
    if (!waiting) return;
    const left = new AbortController();
    let mine: number | null = null;
    const rest = setTimeout(() => {
      const search = async () => {
        const asked = await call("post_nest", { query: { job: id }, body: recipe });
        mine = asked.id;
        followed(client, id, asked);
        if (left.signal.aborted) return stopOperation(asked.id);
        setOperation(asked.id);
        await ended(asked, left.signal);
        refresh();
      };
      search()
        .catch((problem) => !left.signal.aborted && problem instanceof Problem && problem.status !== 409 && tell(problem))
        .finally(() => {
          mine = null;
          setOperation(null);
        });
    }, REST_MS);
    return () => {
      clearTimeout(rest);
      left.abort();
      if (mine !== null) stopOperation(mine); // half a search must not stand for the whole one
    };
    // The recipe is that of the revision.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [waiting, id, revision]);
  return <WorkBar jobId={id} operation={operation} stop="Take the best so far" how="best" />;
}
