import type { Finding, Job } from "../api/client";
import type { useUnits } from "../ui/units";

export const STATIONS = [
  { path: "artwork", name: "Artwork" },
  { path: "lines", name: "Cut lines" },
  { path: "sheet", name: "Sheet" },
  { path: "print", name: "Print" },
  { path: "cut", name: "Cut" },
  { path: "log", name: "Log" },
] as const;

export interface Stub {
  tone: "good" | "look" | "stop" | "next" | "wait";
  state: string;
  figures: string;
}

const WAITING: Stub = { tone: "wait", state: "waiting", figures: "" };

/** What each stub of the docket says, in the order of work. */
export function stubs(job: Job, units: ReturnType<typeof useUnits>): Stub[] {
  return [artwork(job), lines(job, units), sheet(job), print(job), cut(job), log(job, units)];
}

function judged(job: Job, station: Finding["station"], figures: string): Stub {
  const found = job.findings.filter((finding) => finding.station === station);
  const stops = found.filter((finding) => finding.severity === "stop").length;
  const looks = found.filter((finding) => finding.severity === "look").length;
  if (stops) return { tone: "stop", state: "stopped", figures };
  if (looks) return { tone: "look", state: `${looks} to look at`, figures };
  return { tone: "good", state: "ready", figures };
}

function artwork(job: Job): Stub {
  if (job.designs.length === 0) return { tone: "next", state: "next", figures: "drop pictures to begin" };
  const least = Math.round(Math.min(...job.designs.map((design) => design.ppi)));
  return judged(job, "artwork", `${count(job.designs.length, "piece")}, ${least} ppi or better`);
}

function lines(job: Job, { figure }: ReturnType<typeof useUnits>): Stub {
  const designs = job.recipe.designs ?? [];
  if (designs.length === 0) return { ...WAITING, figures: "kiss and through" };
  const span = (values: number[]) => {
    const [low, high] = [Math.min(...values), Math.max(...values)];
    return low === high ? figure(low, 1) : `${figure(low, 1)}–${figure(high, 1)}`;
  };
  const printedOnly = designs.filter((design) => design.lines?.own === "none").length;
  if (printedOnly === designs.length) return judged(job, "lines", "printed, not cut");
  const peels = designs.flatMap((design) => (design.peel_mm ? [design.peel_mm] : []));
  const tornOut = designs.some((design) => design.peel_mm != null && design.lines?.outer === "perforate");
  const held = designs.every((design) => design.lines?.shape === "held");
  const own = designs.every((design) => design.lines?.own === "through") ? "through" : "kiss";
  const through = peels.length ? ` · ${tornOut ? "perforated" : "through"} +${span(peels)}` : own === "kiss" ? " · no through" : "";
  return judged(job, "lines", `${own} ${held ? "as drawn" : span(designs.map((design) => design.border_mm ?? 0))}${through}`);
}

function sheet(job: Job): Stub {
  const { sheets } = job;
  if (job.designs.length === 0) return { ...WAITING, figures: sheets.stock };
  const figures = `${sheets.count} on ${count(sheets.sheets.length, "sheet")} · ${Math.round(sheets.used_share * 100)} % used`;
  const found = judged({ ...job, findings: job.findings.filter((finding) => finding.code !== "nest_waiting") }, "sheet", figures);
  return sheets.nest_waiting && found.tone === "good" ? { tone: "next", state: "rows for now", figures } : found;
}

function print(job: Job): Stub {
  if (job.recipe.sheet?.cut_only) return { ...WAITING, state: "not needed", figures: "cut only, nothing is printed" };
  const wanted = job.sheets.sheets.length;
  if (!wanted) return { ...WAITING, figures: `${job.sheets.stock}, ${job.sheets.marks_told}` };
  if (job.prints.some((each) => each.state === "queued" || each.state === "printing")) return { tone: "next", state: "printing", figures: "" };
  const printed = new Set(job.prints.filter((each) => each.current && each.state === "printed").map((each) => each.sheet)).size;
  const figures = `${printed} of ${count(wanted, "sheet")} printed`;
  if (job.prints.some((each) => each.current && each.state === "unknown")) return { tone: "look", state: "did it come out?", figures };
  if (job.prints.some((each) => each.current && each.state === "out")) return { tone: "look", state: "is it printed?", figures };
  if (job.prints[0]?.state === "failed") return { tone: "stop", state: "stopped", figures };
  return printed === wanted ? { tone: "good", state: "ready", figures } : { tone: "next", state: "next", figures };
}

function cut(job: Job): Stub {
  const last = job.runs[0];
  if (last && !last.is_over)
    return last.state === "placing"
      ? { tone: "look", state: "marks", figures: "a mark is to be set by hand" }
      : { tone: "next", state: last.state, figures: `line ${last.lines_done} of ${last.lines_total}` };
  const printed = job.prints.filter((each) => each.current && each.state === "printed");
  const done = new Set(job.runs.filter((run) => run.state === "done").map((run) => run.print_id));
  if (job.recipe.sheet?.cut_only) {
    const wanted = job.sheets.sheets.length;
    const cut = new Set(printed.filter((each) => done.has(each.id)).map((each) => each.sheet)).size;
    const told = `${cut} of ${count(wanted, "sheet")} cut`;
    return wanted === 0 ? WAITING : cut < wanted ? { tone: "next", state: "next", figures: told } : { tone: "good", state: "ready", figures: told };
  }
  const waiting = printed.filter((each) => !done.has(each.id)).length;
  const figures = `${printed.length - waiting} of ${count(printed.length, "print")} cut`;
  if (last && last.state !== "done" && waiting) return { tone: last.state === "stopped" ? "stop" : "look", state: last.state, figures };
  if (printed.length === 0) return { ...WAITING, figures: "no print of this version" };
  return waiting ? { tone: "next", state: "next", figures } : { tone: "good", state: "ready", figures };
}

function log(job: Job, { length }: ReturnType<typeof useUnits>): Stub {
  // What a person counted stands over what was measured.
  const measured = job.runs
    .map((run) => ({ ...run, good: run.counted_good ?? run.good, bad: run.counted_bad ?? run.bad }))
    .filter((run) => run.good != null);
  if (measured.length === 0) return { ...WAITING, figures: "slip and yield" };
  const good = measured.reduce((sum, run) => sum + (run.good ?? 0), 0);
  const bad = measured.reduce((sum, run) => sum + (run.bad ?? 0), 0);
  const slip = Math.max(...measured.map((run) => run.slip_largest_mm ?? 0));
  const counted = measured.every((run) => run.counted_good != null);
  const figures = `${good} ${counted ? `good of ${good + bad}` : `of ${good + bad} within`} · slip ${length(slip)}`;
  if (bad) return { tone: "look", state: `${bad} bad`, figures };
  return counted ? { tone: "good", state: "ready", figures } : { tone: "next", state: "to count", figures };
}

export const count = (n: number, noun: string) => `${n} ${noun}${n === 1 ? "" : "s"}`;
