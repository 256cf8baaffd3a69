import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { call } from "../api/client";
import { keepFor } from "../ui/fileDrop";
import { useNotice } from "../ui/Notice";

/** The list of jobs, and how to begin one. */
export function useJobs() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const tell = useNotice();
  const { data, error, isPending } = useQuery({ queryKey: ["jobs"], queryFn: () => call("get_jobs", {}) });
  /** Begin a job; files that were dropped go to it as soon as it is open. */
  const begin = async (files: File[] = []) => {
    try {
      const job = await call("post_job", { body: { title: "New job" } });
      client.setQueryData(["job", job.id], job);
      void client.invalidateQueries({ queryKey: ["jobs"] });
      keepFor(files);
      void navigate(`/jobs/${job.id}/artwork`);
    } catch (problem) {
      tell(problem);
    }
  };
  return { jobs: data ?? [], begin, error, isPending };
}
