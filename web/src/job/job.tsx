import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from "react";

import { api, ask, type Design, type DesignFacts, type Finding, type Job, Problem, type Recipe } from "../api/client";
import { useNotice } from "../ui/Notice";
import { Conflict } from "./Conflict";
import { newTicket, WorkBar } from "./operations";

export interface Clash {
  mine: Recipe;
  theirs: Recipe;
  revision: number;
  step: number;
  label: string;
}

interface JobState {
  job: Job;
  /** Keep a changed recipe as a step. */
  change: (label: string, make: (recipe: Recipe) => Recipe) => Promise<void>;
  undo: () => void;
  redo: () => void;
  remedy: (finding: Finding) => void;
  /** Put drawings of one page together. */
  merge: (ids: string[]) => void;
  refresh: () => void;
  selected: Design | undefined;
  facts: DesignFacts | undefined;
  select: (id: string) => void;
}

const Context = createContext<JobState | null>(null);

/** The open job. Writes go one after the other, each from the revision the last one left. */
export function JobProvider({ id, children, missing }: { id: number; children: ReactNode; missing: ReactNode }) {
  const client = useQueryClient();
  const tell = useNotice();
  const key = useMemo(() => ["job", id], [id]);
  const query = useQuery({
    queryKey: key,
    queryFn: () => ask<Job>(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
    retry: (count, error) => !(error instanceof Problem && error.status === 404) && count < 3,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [clash, setClash] = useState<Clash | null>(null);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const [ticket, setTicket] = useState<string | null>(null);
  /** Work under a ticket of its own; after a moment it is shown, and can be cancelled. */
  const watched = useCallback(async <T,>(work: (headers: { "X-Ticket": string }) => Promise<T>): Promise<T> => {
    const own = newTicket();
    const soon = setTimeout(() => setTicket(own), 500);
    try {
      return await work({ "X-Ticket": own });
    } finally {
      clearTimeout(soon);
      setTicket(null);
    }
  }, []);

  const inLine = useCallback(
    (act: (job: Job) => Promise<Job>, onClash?: (problem: Problem, job: Job) => void) => {
      const turn = line.current.then(async () => {
        const now = client.getQueryData<Job>(key);
        if (!now) return;
        try {
          client.setQueryData(key, await act(now));
          void client.invalidateQueries({ queryKey: ["jobs"] });
        } catch (problem) {
          if (problem instanceof Problem && problem.current && onClash) onClash(problem, now);
          else {
            tell(problem);
            void client.invalidateQueries({ queryKey: key });
          }
        }
      });
      line.current = turn;
      return turn;
    },
    [client, key, tell],
  );

  const put = useCallback(
    (revision: number, recipe: Recipe, label: string) =>
      watched((headers) =>
        ask<Job>(api.PUT("/api/jobs/{job_id}/recipe", { params: { path: { job_id: id } }, headers, body: { revision, recipe, label } })),
      ),
    [id, watched],
  );

  const job = query.data;
  const state = useMemo<JobState | null>(() => {
    if (!job) return null;
    const path = { params: { path: { job_id: id } } };
    const selected = job.recipe.designs?.find((design) => design.id === chosen) ?? job.recipe.designs?.[0];
    return {
      job,
      change: async (label, make) => {
        await inLine(
          (now) => put(now.revision, make(now.recipe), label),
          (problem, now) =>
            setClash({
              mine: make(now.recipe),
              theirs: problem.current!.recipe,
              revision: problem.current!.revision,
              step: problem.current!.step,
              label,
            }),
        );
      },
      undo: () => void inLine((now) => ask(api.POST("/api/jobs/{job_id}/undo", { ...path, body: { revision: now.revision } }))),
      redo: () => void inLine((now) => ask(api.POST("/api/jobs/{job_id}/redo", { ...path, body: { revision: now.revision } }))),
      remedy: (finding) =>
        void inLine((now) =>
          watched((headers) =>
            ask(
              api.POST("/api/jobs/{job_id}/remedies", {
                ...path,
                headers,
                body: { revision: now.revision, remedy: finding.remedy!, design: finding.design },
              }),
            ),
          ),
        ),
      merge: (ids) =>
        void inLine((now) =>
          watched((headers) => ask(api.POST("/api/jobs/{job_id}/merge", { ...path, headers, body: { revision: now.revision, designs: ids } }))),
        ),
      refresh: () => void client.invalidateQueries({ queryKey: key }),
      selected,
      facts: job.designs.find((facts) => facts.id === selected?.id),
      select: setChosen,
    };
  }, [job, id, chosen, inLine, put, watched, client, key]);

  if (query.error && !job) return <>{missing}</>;
  if (!state) return <p className="p-8 text-quiet">Opening the job …</p>;
  return (
    <Context.Provider value={state}>
      {children}
      <WorkBar ticket={ticket} />
      {clash && (
        <Conflict
          clash={clash}
          onKeepTheirs={() => {
            setClash(null);
            state.refresh();
          }}
          onKeepMine={() => {
            setClash(null);
            void inLine(() => put(clash.revision, clash.mine, clash.label));
          }}
        />
      )}
    </Context.Provider>
  );
}

export function useJob(): JobState {
  const state = useContext(Context);
  if (!state) throw new Error("outside of JobProvider");
  return state;
}
