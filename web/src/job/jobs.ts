import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { call } from "../api/client";
import { keepFor } from "../ui/fileDrop";
import { useNotice } from "../ui/Notice";
import { PAGE, pageAfter, titleFor } from "./pages";

/** The list of jobs, a page at a time, and how to begin one. */
export function useJobs() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const tell = useNotice();
  const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["jobs"],
    queryFn: ({ pageParam }) => call("get_jobs", { query: { most: PAGE, ...pageParam } }),
    initialPageParam: {},
    getNextPageParam: pageAfter,
  });
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
  const more = hasNextPage ? () => void fetchNextPage() : null;
  return { jobs: data?.pages.flat() ?? [], begin, error, isPending, more, fetchingMore: isFetchingNextPage };
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
    queryFn: ({ signal }) => call("get_jobs", { signal, query: { most: FOUND, named } }),
  });
  return { jobs: data ?? [], looking: isFetching };
}
