import { useEffect } from "react";

import { isOver } from "./stubs";
import { useJob } from "./job";

/** While a sheet prints or is cut, the docket follows. */
export function usePolling() {
  const { job, refresh } = useJob();
  const printing = job.prints.some((each) => each.state === "queued");
  const cutting = job.runs.some((run) => !isOver(run.state));
  useEffect(() => {
    if (!printing && !cutting) return;
    const timer = setInterval(refresh, printing ? 500 : 1500);
    return () => clearInterval(timer);
  }, [printing, cutting, refresh]);
}
