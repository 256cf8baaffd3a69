import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { type Job, type Operation, type Print, type Run, urlOf } from "../api/client";
import { hear } from "./heard";

interface JobEvent {
  revision: number;
  step: number;
  title: string;
}

/** A list with a newer version of one of its rows, or with a new row in front. */
export const upserted = <Row extends { id: number }>(rows: Row[], row: Row): Row[] =>
  rows.some((each) => each.id === row.id) ? rows.map((each) => (each.id === row.id ? row : each)) : [row, ...rows];

/** Follows a job by its one stream of events into what every part of the bench reads. */
export function useEvents(jobId: number) {
  const client = useQueryClient();
  useEffect(() => {
    const key = ["job", jobId];
    const source = new EventSource(urlOf("get_job_events", { job_id: jobId }));
    const on = <T,>(name: string, act: (told: T) => void) =>
      source.addEventListener(name, (event) => act(JSON.parse((event as MessageEvent<string>).data) as T));
    const change = (make: (job: Job) => Job) => hear(client, jobId, make);
    /** All of it anew, once it is there: what was asked for first is shown before that. */
    const anew = async () => {
      if (!client.getQueryData(key)) await client.refetchQueries({ queryKey: key }, { cancelRefetch: false });
      void client.invalidateQueries({ queryKey: key });
    };
    on<JobEvent>("job", (told) => {
      const job = client.getQueryData<Job>(key);
      // What this window saved itself it has already.
      if (job && (told.revision > job.revision || told.title !== job.title)) void client.invalidateQueries({ queryKey: key });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    });
    on<Print>("print", (print) => change((job) => ({ ...job, prints: upserted(job.prints, print) })));
    on<Run>("run", (run) => change((job) => ({ ...job, runs: upserted(job.runs, run) })));
    on<Operation>("operation", (operation) => followed(client, jobId, operation));
    source.addEventListener("resync", () => void anew());
    return () => source.close();
  }, [client, jobId]);
}

/** Remembers how an operation stands; those that are over and went well are no longer shown. */
export function followed(client: QueryClient, jobId: number, operation: Operation) {
  client.setQueryData<Record<number, Operation>>(["operations", jobId], (known) => ({ ...known, [operation.id]: operation }));
  hear(client, jobId, (job) => {
    const gone = operation.state === "done" || operation.state === "cancelled";
    return { ...job, operations: gone ? job.operations.filter((each) => each.id !== operation.id) : upserted(job.operations, operation) };
  });
}
