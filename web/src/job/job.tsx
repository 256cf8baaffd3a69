import { replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from "react";

import { call, type Design, type DesignFacts, type Finding, type Job, type Operation, type OtherVersion, Problem, type Recipe } from "../api/client";
import { useNotice } from "../ui/Notice";
import { refuse } from "../ui/refused";
import { useAsk } from "../ui/Ask";
import { useSay } from "../ui/Notice";
import { type Clash, Conflict } from "./Conflict";
import { isAccepted } from "./outdating";
import type { Entry } from "./undoStack";
import { useUndo, useUndoStack } from "./useUndo";
import { withWhatIsHeard } from "./heard";
import { merged, onlyMore } from "./merge";
import { ended, WorkBar } from "./operations";
import { followed, useEvents } from "./useEvents";
import { WriteQueue } from "./writeQueue";

/** Ids of what the shop has, to be used for the sheet. */
interface Equipment {
  stock?: string;
  printer?: string;
  plotter?: string;
  take_numbers?: boolean;
}

interface JobState {
  job: Job;
  /** Save a changed recipe as a step. */
  change: (label: string, make: (recipe: Recipe) => Recipe) => Promise<void>;
  /** What Ctrl Z does, by name; undefined where there is nothing to undo. */
  undo: { label: string; act: () => void } | undefined;
  redo: { label: string; act: () => void } | undefined;
  /** Remember what was done beside the recipe, so that Ctrl Z takes that back, or says that it cannot. */
  did: (entry: Entry) => void;
  /** Go to any step, those aside too. */
  open: (step: number) => void;
  /** What a finding proposes, for others that propose the like too. */
  remedy: (finding: Remedied, also?: Remedied[]) => void;
  /** Ask for something that is made of the job as it is shown: after all changes to it have arrived. */
  afterChanges: <T>(ask: () => Promise<T>) => Promise<T>;
  /** Put drawings of one page together. */
  merge: (ids: string[]) => void;
  /** Print on, print with or cut with something else that the shop has. */
  equip: (equipment: Equipment) => void;
  refresh: () => void;
  selected: Design | undefined;
  facts: DesignFacts | undefined;
  select: (id: string) => void;
}

type Remedied = Pick<Finding, "remedy" | "design">;

const Context = createContext<JobState | null>(null);

/** A change that needs longer is followed as an operation. */
const QUICK_S = 1;

/** A slow answer that was read before the last write never takes its place. */
const notOlder = (held: Job | undefined, told: Job): Job => (held && held.revision > told.revision ? held : replaceEqualDeep(held, told));

/** The open job. Writes go one after the other, each from the revision the last one left. */
export function JobProvider({ id, children, missing }: { id: number; children: ReactNode; missing: ReactNode }) {
  const client = useQueryClient();
  const tell = useNotice();
  const key = useMemo(() => ["job", id], [id]);
  const query = useQuery({
    queryKey: key,
    queryFn: () => withWhatIsHeard(id, () => call("get_job", { path: { job_id: id } })),
    structuralSharing: (held, told) => notOlder(held as Job | undefined, told as Job),
    retry: (count, error) => !(error instanceof Problem && error.status === 404) && count < 3,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [clash, setClash] = useState<Clash | null>(null);
  const [operation, setOperation] = useState<number | null>(null);
  const queue = useMemo(() => new WriteQueue(), []);
  const history = useUndoStack(id);
  const ask = useAsk();
  const say = useSay();
  useEvents(id);

  /** The job as a write left it: at once, or when a worker is done with it. */
  const settled = useCallback(
    async (answer: Job | Operation): Promise<Job> => {
      if (!("kind" in answer)) return answer;
      followed(client, id, answer);
      setOperation(answer.id);
      try {
        await ended(answer);
      } finally {
        setOperation(null);
      }
      return call("get_job", { path: { job_id: id } });
    },
    [client, id],
  );

  /** A write in its turn. What is made of a recipe is made anew when nothing but more pieces came in between: the rest of
   *  a drop is nobody's other version. */
  const inLine = useCallback(
    (act: (job: Job) => Promise<Job | Operation>, made: { ofRecipe?: boolean; next?: (job: Job) => Recipe; onClash?: (current: OtherVersion, job: Job) => void; onDone?: (job: Job) => void } = {}) =>
      queue.add(async () => {
        let now = client.getQueryData<Job>(key);
        const { next } = made;
        const shown = now;
        if (shown && !(await isAccepted(ask, shown, next && (() => next(shown))))) return refuse();
        while (now) {
          const before: Job = now;
          try {
            const after = await withWhatIsHeard(id, async () => settled(await act(before)));
            client.setQueryData(key, after);
            if (made.onDone) made.onDone(after);
            else if (after.step !== before.step) history.push({ kind: "step", step: after.step, label: after.step_label });
            void client.invalidateQueries({ queryKey: ["jobs"] });
            return;
          } catch (problem) {
            const current = problem instanceof Problem ? problem.current : undefined;
            if (current && made.ofRecipe && onlyMore(now.recipe, current.recipe)) {
              now = { ...now, revision: current.revision, recipe: current.recipe };
              continue;
            }
            if (current && made.onClash) made.onClash(current, now);
            else {
              tell(problem);
              void client.invalidateQueries({ queryKey: key });
            }
            return;
          }
        }
      }),
    [ask, client, history, id, key, queue, settled, tell],
  );

  const put = useCallback(
    (revision: number, recipe: Recipe, label: string) => call("put_recipe", { path: { job_id: id }, body: { revision, recipe, label }, waitS: QUICK_S }),
    [id],
  );

  const job = query.data;
  const refresh = useCallback(() => void client.invalidateQueries({ queryKey: key }), [client, key]);
  const walk = useCallback(
    (label: string) => {
      const onDone = () => {
        history.pop();
        say(`Undone: ${label}`);
      };
      void inLine((now) => call("post_undo", { path: { job_id: id }, body: { revision: now.revision } }), { onDone });
    },
    [history, id, inLine, say],
  );
  const state = useMemo<Omit<JobState, "undo"> | null>(() => {
    if (!job) return null;
    const path = { job_id: id };
    const selected = job.recipe.designs?.find((design) => design.id === chosen) ?? job.recipe.designs?.[0];
    return {
      job,
      change: (label, make) => {
        // Made to what is shown, and so kept on what holds when its turn comes.
        const base = job.recipe;
        const mine = (now: Job) => merged(base, make(base), now.recipe);
        return inLine(
          (now) => put(now.revision, mine(now), label),
          {
            ofRecipe: true,
            next: mine,
            onClash: (other, now) => setClash({ mine: mine(now), theirs: other.recipe, revision: other.revision, step: other.step, aside: other.aside ?? null, label }),
          },
        );
      },
      redo: job.redo_label == null ? undefined : {
        label: job.redo_label,
        act: () => {
          const onDone = (after: Job) => {
            history.push({ kind: "step", step: after.step, label: after.step_label });
            say(`Redone: ${after.step_label}`);
          };
          void inLine((now) => call("post_redo", { path, body: { revision: now.revision } }), { onDone });
        },
      },
      did: history.push,
      open: (step) => void inLine((now) => call("post_open", { path, body: { revision: now.revision, step } })),
      // Commands are for whatever holds: more pictures of one drop may still be coming in.
      remedy: (finding, also = []) => {
        const wanted = (each: Remedied) => ({ remedy: each.remedy!, design: each.design ?? null });
        void inLine(() => call("post_remedy", { path, body: { ...wanted(finding), also: also.map(wanted) }, waitS: QUICK_S }));
      },
      afterChanges: (ask) => queue.add(ask),
      merge: (ids) => void inLine(() => call("post_merge", { path, body: { designs: ids }, waitS: QUICK_S })),
      equip: (equipment) =>
        void inLine((now) => call("post_equipment", { path, body: { revision: now.revision, take_numbers: false, ...equipment } }), { ofRecipe: true }),
      refresh,
      selected,
      facts: job.designs.find((facts) => facts.id === selected?.id),
      select: setChosen,
    };
  }, [job, id, chosen, inLine, put, queue, refresh, history, say]);

  if (query.error && !job) return <>{missing}</>;
  if (!state) return <main className="h-full p-8 text-quiet">Opening the job …</main>;
  return <WithUndo state={state} history={history} walk={walk}>
      {children}
      <WorkBar jobId={id} operation={operation} />
      {clash && (
        <Conflict
          clash={clash}
          onKeepTheirs={() => {
            setClash(null);
            refuse();
            refresh();
          }}
          onKeepMine={() => {
            setClash(null);
            void inLine(() => put(clash.revision, clash.mine, clash.label));
          }}
        />
      )}
  </WithUndo>;
}

function WithUndo({ state, history, walk, children }: { state: Omit<JobState, "undo">; history: ReturnType<typeof useUndoStack>; walk: (label: string) => void; children: ReactNode }) {
  const undo = useUndo(state.job, history, walk, state.refresh);
  const label = undo?.label;
  const latest = useRef(undo);
  latest.current = undo;
  const whole = useMemo<JobState>(() => ({ ...state, undo: label === undefined ? undefined : { label, act: () => latest.current?.act() } }), [state, label]);
  return <Context.Provider value={whole}>{children}</Context.Provider>;
}

export function useJob(): JobState {
  const state = useContext(Context);
  if (!state) throw new Error("outside of JobProvider");
  return state;
}
