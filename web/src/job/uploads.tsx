import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { useQueryClient } from "@tanstack/react-query";

import { call, type Operation, Problem, sendPicture } from "../api/client";
import { useJob } from "./job";
import { isOpen, stopOperation } from "./operations";
import { hear } from "./heard";
import { followed } from "./useEvents";

/** A picture that is being sent, read, or was not taken in. */
export interface Upload {
  key: string;
  name: string;
  share: number;
  doing: string;
  problem: { title: string; detail: string } | null;
  /** Takes it off the list: stops what is under way, or puts away what failed. */
  drop: (() => void) | null;
}

interface Uploads {
  uploads: Upload[];
  add: (files: Iterable<File>) => void;
}

interface Sending {
  key: string;
  name: string;
  share: number;
  problem: Problem | null;
}

const Context = createContext<Uploads | null>(null);
const AT_ONCE = 3;
const SENT_SHARE = 0.3;

const newBatch = () => crypto.randomUUID?.() ?? `b-${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`;

/** Sends many pictures at a time; the server reads them and makes pieces of them whether or not this page stays open.
 *  One that fails says why and holds nothing up. All that come in together are one step. */
export function UploadsProvider({ children }: { children: ReactNode }) {
  const { job, select, did } = useJob();
  const client = useQueryClient();
  const [sending, setSending] = useState<Sending[]>([]);
  const jobId = job.id;

  const update = useCallback((key: string, next: Partial<Sending> | null) => {
    setSending((before) => (next ? before.map((each) => (each.key === key ? { ...each, ...next } : each)) : before.filter((each) => each.key !== key)));
  }, []);

  /** Follow a picture until it is a piece: the first of a drop is chosen, and the step that all of them are is this
   *  window's to undo. */
  const followPicture = useCallback(
    async (operation: Operation, isFirst: boolean) => {
      let now = operation;
      while (isOpen(now)) now = await call("get_operation", { path: { operation_id: now.id }, waitS: 50 });
      followed(client, jobId, now);
      if (now.design && isFirst) select(now.design);
      void client.invalidateQueries({ queryKey: ["job", jobId] });
      const { step, step_label: label } = await call("get_job", { path: { job_id: jobId } });
      if (now.state === "done") did({ kind: "step", step, label });
    },
    [client, did, jobId, select],
  );

  const add = useCallback(
    (files: Iterable<File>) => {
      const batch = newBatch();
      const waiting = [...files].map((file, position) => ({ file, position, key: `${batch} ${position}` }));
      const last = waiting.length - 1;
      setSending((before) => [...before, ...waiting.map(({ file, key }) => ({ key, name: file.name, share: 0, problem: null }))]);
      const work = async () => {
        for (let next = waiting.shift(); next; next = waiting.shift()) {
          const { file, position, key } = next;
          try {
            const operation = await sendPicture(jobId, file, batch, position, (share) => update(key, { share }));
            followed(client, jobId, operation);
            update(key, null);
            if (position === 0 || position === last) void followPicture(operation, position === 0).catch(() => undefined);
          } catch (problem) {
            update(key, { problem: problem instanceof Problem ? problem : Problem.unreachable() });
          }
        }
      };
      for (let n = 0; n < AT_ONCE; n += 1) void work();
    },
    [client, followPicture, jobId, update],
  );

  const uploads = useMemo<Upload[]>(
    () => [
      ...sending.map((each) => ({
        key: each.key,
        name: each.name,
        share: each.share * SENT_SHARE,
        doing: "Sending",
        problem: each.problem,
        drop: each.problem ? () => update(each.key, null) : null,
      })),
      ...job.operations
        .filter((each) => each.kind === "picture")
        .map((each) => ({
          key: `operation ${each.id}`,
          name: each.subject,
          share: SENT_SHARE + (1 - SENT_SHARE) * each.share,
          doing: each.doing,
          problem: each.problem ?? null,
          drop: () => (isOpen(each) ? stopOperation(each.id) : putAway(each.id)),
        })),
    ],
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [sending, job.operations],
  );

  const putAway = (id: number) => {
    hear(client, jobId, (before) => ({ ...before, operations: before.operations.filter((each) => each.id !== id) }));
    void call("delete_operation", { path: { operation_id: id } }).catch(() => undefined);
  };

  const state = useMemo(() => ({ uploads, add }), [uploads, add]);
  return <Context.Provider value={state}>{children}</Context.Provider>;
}

export function useUploads(): Uploads {
  const uploads = useContext(Context);
  if (!uploads) throw new Error("outside of UploadsProvider");
  return uploads;
}
