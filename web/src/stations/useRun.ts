import { useEffect, useState } from "react";

import type { Run } from "../api/client";
import { isOver } from "./stations";

/** A run as it goes on, by server-sent events; `onOver` is called once at its end. */
export function useRun(run: Run | undefined, onOver: () => void): Run | undefined {
  const [live, setLive] = useState<Run | undefined>();
  const id = run?.id;
  const over = run ? isOver(run.state) : true;
  useEffect(() => {
    if (id === undefined || over) return;
    const source = new EventSource(`/api/runs/${id}/events`);
    source.addEventListener("run", (event) => {
      const next = JSON.parse((event as MessageEvent<string>).data) as Run;
      setLive(next);
      if (isOver(next.state)) {
        source.close();
        onOver();
      }
    });
    return () => source.close();
    // The callback belongs to the render that began to listen.
  }, [id, over]);
  return live && live.id === id && !over ? live : run;
}
