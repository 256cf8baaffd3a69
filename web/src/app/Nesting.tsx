import { useEffect, useState } from "react";

import { api, ask, Problem, type Sheets } from "../api/client";
import { useNotice } from "../ui/Notice";
import { useJob } from "../job/job";
import { cancelWork, newTicket, WorkBar } from "../job/operations";

const REST_MS = 500;

/** Searches the nest that a job asks for, as soon as nothing changes any more; rows stand in its place meanwhile. */
export function Nesting() {
  const { job, refresh } = useJob();
  const tell = useNotice();
  const [ticket, setTicket] = useState<string | null>(null);
  const waiting = job.sheets.nest_waiting;
  const { id, revision, recipe } = job;
  useEffect(() => {
    if (!waiting) return;
    const own = newTicket();
    const left = new AbortController();
    let begun = false;
    const rest = setTimeout(() => {
      begun = true;
      setTicket(own);
      void ask<Sheets>(api.POST("/api/sheets/nest", { signal: left.signal, headers: { "X-Ticket": own }, body: recipe }))
        .then(refresh, (problem) => !left.signal.aborted && problem instanceof Problem && tell(problem))
        .finally(() => {
          begun = false;
          setTicket((now) => (now === own ? null : now));
        });
    }, REST_MS);
    return () => {
      clearTimeout(rest);
      left.abort();
      if (begun) cancelWork(own, false); // half a search must not stand for the whole one
    };
    // The recipe is that of the revision.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [waiting, id, revision]);
  return <WorkBar ticket={ticket} stop="Take the best so far" />;
}
