import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Operation, Problem } from "../api/client";
import { useNotice } from "../ui/Notice";
import { Progress } from "../ui/Progress";

export const isOpen = (operation: Operation) => operation.state === "queued" || operation.state === "working";

/** Stops it, whether or not anybody is told: nobody waits for it any more. */
export function stopOperation(id: number) {
  void call("post_stop", { path: { operation_id: id }, query: { how: "drop" } }).catch(() => undefined);
}

/** The operation once it is over; the server answers when it is, so nothing is asked again and again.
 *
 *  @throws Problem why it failed, or that it was cancelled.
 */
export async function ended(operation: Operation, signal?: AbortSignal): Promise<Operation> {
  let now = operation;
  while (isOpen(now)) now = await call("get_operation", { path: { operation_id: now.id }, signal, waitS: 50 });
  if (now.problem) throw Problem.from(now.problem.status, now.problem);
  if (now.state === "cancelled") throw new Problem(409, "You cancelled this.", "Nothing was changed.");
  return now;
}

/** What an operation is at, by the job's own stream of events. */
export function useOperation(jobId: number, id: number | null): Operation | undefined {
  const { data } = useQuery<Record<number, Operation>>({ queryKey: ["operations", jobId], queryFn: () => ({}), enabled: false });
  return id === null ? undefined : data?.[id];
}

/** A bar over the bench while a change takes more than a moment. */
export function WorkBar({ jobId, operation, stop = "Cancel", how = "drop" }: { jobId: number; operation: number | null; stop?: string; how?: "best" | "drop" }) {
  const work = useOperation(jobId, operation);
  const tell = useNotice();
  const [stopping, setStopping] = useState<number | null>(null);
  if (operation === null || !work || !isOpen(work)) return null;
  const doing = work.doing || "Waiting to start";
  const end = () => {
    setStopping(operation);
    call("post_stop", { path: { operation_id: operation }, query: { how } }).catch((problem) => {
      setStopping(null);
      tell(problem);
    });
  };
  return (
    <div role="status" className="fade fixed bottom-6 left-6 z-40 flex w-[220px] flex-col gap-2 rounded-md border border-act bg-paper px-3 py-2 shadow-lg">
      <span className="grow">
        <span className="block">{doing} …</span>
        <Progress label={doing} share={work.share} />
      </span>
      <button type="button" className="rounded-md border border-stop px-2.5 py-1 text-stop hover:bg-stop-pale disabled:opacity-60" disabled={stopping === operation} onClick={end}>
        {stopping === operation ? "Stopping …" : stop}
      </button>
    </div>
  );
}
