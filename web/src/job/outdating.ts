import type { Job } from "../api/client";
import type { Question } from "../ui/Ask";

type Standing = { prints: Pick<Job["prints"][number], "id" | "sheet" | "state" | "current">[]; runs: Pick<Job["runs"][number], "print_id" | "state">[] };

const ON_PAPER = ["printing", "unknown", "out", "printed"];
const accepted = new Set<number>();

/** Prints of the job as it is now that a change would leave to an older version. */
export const outdates = (job: Standing) => job.prints.filter((each) => each.current && ON_PAPER.includes(each.state));

/** The question before a change that leaves printed sheets behind. */
export function outdatingQuestion(job: Standing): Question {
  const prints = outdates(job);
  const sheets = [...new Set(prints.map((each) => each.sheet + 1))].sort((a, b) => a - b);
  const cut = job.runs.some((run) => run.state === "done" && prints.some((each) => each.id === run.print_id));
  const what = sheets.length === 1 ? `Sheet ${sheets[0]} is` : `${sheets.length} sheets are`;
  const it = sheets.length === 1 ? "it" : "them";
  return {
    title: `${what} ${cut ? "printed and cut" : "on paper"} already`,
    detail: `This change makes ${it} an older version. You can still cut ${it} as printed, but the new version needs new sheets.`,
    acts: [{ value: "change", label: "Change it" }],
  };
}

let asking: Promise<boolean> | null = null;

/** Whether a change may be made: asked once for the sheets that it leaves behind. */
export function isAccepted(ask: (question: Question) => Promise<string | null>, job: Standing): Promise<boolean> {
  const open = outdates(job).filter((each) => !accepted.has(each.id));
  if (!open.length) return Promise.resolve(true);
  asking ??= ask(outdatingQuestion(job)).then((answer) => {
    asking = null;
    if (answer === null) return false;
    for (const each of open) accepted.add(each.id);
    return true;
  });
  return asking;
}
