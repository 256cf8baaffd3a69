import type { QueryClient } from "@tanstack/react-query";

import type { Job } from "../api/client";

type Change = (job: Job) => Job;

/** What was heard of a job since each answer about it was asked for that is still on its way. */
const unanswered = new Map<number, Set<Change[]>>();

/** Change the job that is held as an event tells, and every answer that is still on its way. */
export function hear(client: QueryClient, jobId: number, change: Change) {
  for (const since of unanswered.get(jobId) ?? []) since.push(change);
  client.setQueryData<Job>(["job", jobId], (job) => job && change(job));
}

/** An answer with what was heard while it was on its way: it may have been read before that happened. */
export async function withWhatIsHeard(jobId: number, ask: () => Promise<Job>): Promise<Job> {
  const since: Change[] = [];
  const asked = unanswered.get(jobId) ?? new Set();
  unanswered.set(jobId, asked.add(since));
  try {
    const answer = await ask();
    return since.reduce((job, change) => change(job), answer);
  } finally {
    asked.delete(since);
    if (asked.size === 0) unanswered.delete(jobId);
  }
}
