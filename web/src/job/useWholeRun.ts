import { useQuery } from "@tanstack/react-query";

import { call, type Run } from "../api/client";

/** A run with what was measured at each of its stickers: the job brings that of the newest ones alone. */
export function useWholeRun(run: Run | undefined): Run | undefined {
  const told = run && [run.state, run.measured_by, run.slip_mean_mm, run.count_version];
  const { data } = useQuery({
    queryKey: ["run", run?.id, told],
    enabled: run !== undefined && !run.is_whole,
    queryFn: ({ signal }) => call("get_run", { path: { run_id: run!.id }, signal }),
    staleTime: Infinity,
  });
  return run?.is_whole ? run : (data ?? run);
}
