import type { Job, Recipe } from "../api/client";
import { KNOWN_FIELDS } from "../api/constants";
import type { Question } from "../ui/Ask";

type Standing = { prints: Pick<Job["prints"][number], "id" | "sheet" | "state" | "current">[]; runs: Pick<Job["runs"][number], "print_id" | "state">[] };

const ON_PAPER = ["printing", "unknown", "out", "printed"];
const accepted = new Set<number>();

/** Prints of the job as it is now that a change would leave to an older version. */
export const outdates = (job: Standing) => job.prints.filter((each) => each.current && ON_PAPER.includes(each.state));

const without = <T extends object>(thing: T | null | undefined, fields: string[]) =>
  thing && Object.fromEntries(Object.entries(thing).filter(([field]) => !fields.includes(field)));

const made = ({ designs, sheet }: Recipe) =>
  JSON.stringify([
    designs?.map((each) => without(each, KNOWN_FIELDS.design)),
    { ...sheet, paper: without(sheet?.paper, KNOWN_FIELDS.paper), printer: without(sheet?.printer, KNOWN_FIELDS.printer), plotter: without(sheet?.plotter, KNOWN_FIELDS.plotter) },
  ]);

/** Whether two recipes differ in no more than what is known about the work: names, rights, prices. */
export const makeTheSame = (before: Recipe, after: Recipe) => made(before) === made(after);

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

/** Whether a change may be made: asked once for the sheets that it leaves behind.
 *
 *  @param next makes the recipe that it leads to, where that is known.
 */
export function isAccepted(ask: (question: Question) => Promise<string | null>, job: Standing & { recipe: Recipe }, next?: () => Recipe): Promise<boolean> {
  const open = outdates(job).filter((each) => !accepted.has(each.id));
  if (!open.length || (next && makeTheSame(job.recipe, next()))) return Promise.resolve(true);
  asking ??= ask(outdatingQuestion(job)).then((answer) => {
    asking = null;
    if (answer === null) return false;
    for (const each of open) accepted.add(each.id);
    return true;
  });
  return asking;
}
