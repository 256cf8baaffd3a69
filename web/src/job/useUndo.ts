import { useCallback, useMemo, useRef, useState } from "react";

import { call, type Job } from "../api/client";
import { useNotice, useSay } from "../ui/Notice";
import { type Act, type Entry, nextUndo, pushed } from "./undoStack";

const keyOf = (job: number) => `perisect.undo.${job}`;

function kept(job: number): Entry[] {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(job)) ?? "[]") as Entry[];
  } catch {
    return [];
  }
}

/** What this person did in this tab, and how the last of it is undone. */
export function useUndoStack(id: number) {
  const [stack, setStack] = useState<Entry[]>(() => kept(id));
  const latest = useRef(stack);
  const put = useCallback(
    (next: Entry[]) => {
      latest.current = next;
      setStack(next);
      sessionStorage.setItem(keyOf(id), JSON.stringify(next));
    },
    [id],
  );
  const push = useCallback((entry: Entry) => put(pushed(latest.current, entry)), [put]);
  const pop = useCallback(() => put(latest.current.slice(0, -1)), [put]);
  return useMemo(() => ({ stack, push, pop }), [stack, push, pop]);
}

async function takeBack(act: Act): Promise<void> {
  if (act.do === "spoiled") {
    await call("post_not_spoiled", { path: { print_id: act.print } });
    return;
  }
  const { count_version: version } = await call("get_run", { path: { run_id: act.run } });
  await call("put_count", { path: { run_id: act.run }, body: { version, count: act.before } });
}

/** What Ctrl Z does now, by name, and its doing; undefined where there is nothing to undo. */
export function useUndo(job: Job, undo: ReturnType<typeof useUndoStack>, walk: (label: string) => void, refresh: () => void) {
  const say = useSay();
  const tell = useNotice();
  const next = nextUndo(undo.stack, job);
  if (!next) return undefined;
  return {
    label: next.label,
    act: () => {
      if (next.do === "say") return say(next.text);
      if (next.do === "walk") return walk(next.label);
      undo.pop();
      void takeBack(next.act)
        .then(() => say(`Undone: ${next.label}`))
        .catch(tell)
        .finally(refresh);
    },
  };
}
