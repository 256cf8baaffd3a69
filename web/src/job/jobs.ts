import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, ask, type Job, type JobSummary } from "../api/client";
import { useNotice } from "../ui/Notice";

/** The list of jobs, and how to begin one. */
export function useJobs() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const tell = useNotice();
  const { data, error, isPending } = useQuery({ queryKey: ["jobs"], queryFn: () => ask<JobSummary[]>(api.GET("/api/jobs")) });
  const begin = async (title = "New job") => {
    try {
      const job = await ask<Job>(api.POST("/api/jobs", { body: { title } }));
      client.setQueryData(["job", job.id], job);
      void client.invalidateQueries({ queryKey: ["jobs"] });
      void navigate(`/jobs/${job.id}/artwork`);
    } catch (problem) {
      tell(problem);
    }
  };
  return { jobs: data ?? [], begin, error, isPending };
}
