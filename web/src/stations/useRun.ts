import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import type { Job, Run } from "../api/client";
import { isOver } from "./stations";

/** Follows a run by server-sent events into the job itself, so that every part of the bench tells the same line. */
export function useRun(jobId: number, run: Run | undefined, onOver: () => void) {
  const client = useQueryClient();
  const id = run?.id;
  const over = run ? isOver(run.state) : true;
  useEffect(() => {
    if (id === undefined || over) return;
    const source = new EventSource(`/api/runs/${id}/events`);
    source.addEventListener("run", (event) => {
      const next = JSON.parse((event as MessageEvent<string>).data) as Run;
      client.setQueryData<Job>(["job", jobId], (job) =>
        job && { ...job, runs: job.runs.map((each) => (each.id === next.id ? next : each)) },
      );
      if (isOver(next.state)) {
        source.close();
        onOver();
      }
    });
    return () => source.close();
    // The callback belongs to the render that began to listen.
  }, [client, jobId, id, over]);
}
