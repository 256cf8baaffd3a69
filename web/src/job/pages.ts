import type { JobSummary } from "../api/client";

/** Jobs on a page of the list. */
export const PAGE = 100;

export interface PageMark {
  before?: string;
  last?: number;
}

/** Where the page after one begins, or nothing when that was the last. */
export function pageAfter(page: Pick<JobSummary, "id" | "updated_at">[]): PageMark | undefined {
  const last = page.at(-1);
  return last && page.length === PAGE ? { before: last.updated_at, last: last.id } : undefined;
}

/** What a job is called that begins with files: as the first of them, and how many more; or new. */
export function titleFor(files: Pick<File, "name">[]): string {
  const stem = (files[0]?.name ?? "").replace(/\.[^.]*$/, "").replace(/[_\-\s]+/g, " ").trim().slice(0, 100);
  if (!stem) return "New job";
  const more = files.length > 1 ? ` and ${files.length - 1} more` : "";
  return stem[0]!.toUpperCase() + stem.slice(1) + more;
}
