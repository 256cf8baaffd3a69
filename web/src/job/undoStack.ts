import type { Job, Schemas } from "../api/client";

/** What can be taken back though it is no step of the recipe. */
export type Act = { do: "count"; run: number; before: Schemas["Count"] | null } | { do: "spoiled"; print: number };

/** What this person did last in this tab, oldest first: a step of the recipe, an act with an undo of its own, or one that
 *  cannot be undone. */
export type Entry = { kind: "step"; step: number; label: string } | { kind: "act"; label: string; act: Act } | { kind: "fixed"; label: string };

/** What Ctrl Z does: walk one step back, take an act back, or say why it does nothing. */
export type Undo = { do: "walk"; label: string } | { do: "act"; label: string; act: Act } | { do: "say"; label: string; text: string };

const MAX_ENTRIES = 60;
const STEPS = "To go back to an earlier step, choose it from the steps beside the buttons.";

export const pushed = (stack: Entry[], entry: Entry): Entry[] => [...stack, entry].slice(-MAX_ENTRIES);

type Standing = Pick<Job, "step" | "step_label" | "can_undo" | "kept_at"> & { prints: Pick<Job["prints"][number], "id" | "created_at" | "sheet">[]; runs: Pick<Job["runs"][number], "id" | "created_at">[] };

/** What happened to the job after its last step and is none: somebody else may have done it. */
function later(job: Standing): string | null {
  const events = [
    ...job.prints.map((each) => ({ at: each.created_at, told: `Print ${each.id}` })),
    ...job.runs.map((each) => ({ at: each.created_at, told: `Cut ${each.id}` })),
  ].filter(({ at }) => Date.parse(at) > Date.parse(job.kept_at));
  events.sort((a, b) => Date.parse(b.at) - Date.parse(a.at));
  return events[0]?.told ?? null;
}

/** What Ctrl Z does now; null where there is nothing to undo. */
export function nextUndo(stack: Entry[], job: Standing): Undo | null {
  const top = stack.at(-1);
  if (top?.kind === "act") return { do: "act", label: top.label, act: top.act };
  if (top?.kind === "fixed") return { do: "say", label: top.label, text: `“${top.label}” cannot be undone. ${STEPS}` };
  if (top?.kind === "step" && top.step !== job.step)
    return { do: "say", label: job.step_label, text: `“${job.step_label}” was done last, in another window. ${STEPS}` };
  if (!job.can_undo) return null;
  if (!top) {
    const event = later(job);
    if (event) return { do: "say", label: event, text: `“${event}” was done last and cannot be undone. ${STEPS}` };
  }
  return { do: "walk", label: job.step_label };
}
