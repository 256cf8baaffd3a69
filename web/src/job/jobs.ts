import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { call, type JobSummary } from "../api/client";
import { keepFor } from "../ui/fileDrop";
import { useNotice } from "../ui/Notice";
import { PAGE, pageAfter, titleFor } from "./pages";

export type Which = "open" | "archived" | "all";

/** Which jobs, in which order. */
export interface Wanted {
  named: string;
  which: Which;
  stage: JobSummary["stage"] | null;
  sort: "worked" | "due" | "title" | "number";
}

/** How to begin a job. */
export function useJobs() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const tell = useNotice();
  /** Begin a job; files that were dropped go to it as soon as it is open. */
  const begin = async (files: File[] = []) => {
    try {
      const job = await call("post_job", { body: { title: titleFor(files) } });
      client.setQueryData(["job", job.id], job);
      void client.invalidateQueries({ queryKey: ["jobs"] });
      keepFor(files, job.id);
      void navigate(`/jobs/${job.id}/artwork`);
    } catch (problem) {
      tell(problem);
    }
  };
  return { begin };
}

/** The list of jobs, a page at a time; what was shown stays while the next answer is on its way. */
export function useJobList(wanted: Wanted) {
  const client = useQueryClient();
  const query = { ...wanted, named: wanted.named.trim().slice(0, 120) };
  const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["jobs", query],
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam, signal }) => call("get_jobs", { signal, query: { most: PAGE, ...query, ...pageParam } }),
    initialPageParam: {},
    getNextPageParam: (page: JobSummary[], pages) => (query.sort === "worked" ? pageAfter(page) : page.length === PAGE ? { skip: pages.length * PAGE } : undefined),
  });
  const { data: total } = useQuery({
    queryKey: ["jobs", "count", query.named, query.which, query.stage],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_job_count", { signal, query: { named: query.named, which: query.which, stage: query.stage } }),
  });
  const more = hasNextPage ? () => void fetchNextPage() : null;
  const again = () => void client.invalidateQueries({ queryKey: ["jobs"] });
  return { jobs: data?.pages.flat() ?? [], total, error, isPending, more, fetchingMore: isFetchingNextPage, again };
}

const FOUND = 12;

/** Jobs by words of their titles, of all there are, and whether they are still looked for; the last ones when there
 * are no words. */
export function useJobsNamed(words: string, enabled: boolean) {
  const named = words.trim().slice(0, 120);
  const { data, isFetching } = useQuery({
    queryKey: ["jobs", "named", named],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_jobs", { signal, query: { most: FOUND, named, which: "all" } }),
  });
  return { jobs: data ?? [], looking: isFetching };
}
