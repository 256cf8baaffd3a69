import { keepPreviousData, skipToken, useQueries, useQuery } from "@tanstack/react-query";

import { call, type Design, type Lines, type Painted, PLAIN_LINES, type SheetRecipe, UNMENDED } from "../api/client";
import { useJob } from "./job";

/** What lines are cut in and with: the face of the sheet's stock, and the knife of its plotter. */
const toolingOf = (sheet: SheetRecipe | undefined) => ({ face: sheet?.paper?.face ?? "paper", knife_offset_mm: sheet?.plotter?.knife_offset_mm ?? 0.25 }) as const;

const linesKey = (design: Design | undefined, sheet: SheetRecipe | undefined) => [
  "lines", design?.id, design?.name, design?.artwork, design?.mend, design?.longest_mm, design?.border_mm, design?.peel_mm, design?.lines, toolingOf(sheet),
];

const linesQuery = (design: Design, sheet: SheetRecipe | undefined) => ({
  queryKey: linesKey(design, sheet),
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    call("post_lines", {
      signal,
      body: {
        artwork: design.artwork,
        mend: design.mend ?? UNMENDED,
        longest_mm: design.longest_mm ?? 60,
        border_mm: design.border_mm ?? 0,
        peel_mm: design.peel_mm ?? null,
        lines: design.lines ?? PLAIN_LINES,
        ...toolingOf(sheet),
        design: design.id,
        name: design.name,
      },
    }),
  staleTime: Infinity,
});

/** Lines of one design; the ones before stay while new ones come. */
export function useLines(design: Design | undefined): Lines | undefined {
  const { sheet } = useJob().job.recipe;
  const query = useQuery({
    ...(design ? linesQuery(design, sheet) : { queryKey: linesKey(undefined, sheet), queryFn: skipToken }),
    placeholderData: (before: Lines | undefined, of) => (of?.queryKey[1] === design?.id ? before : undefined),
  });
  return query.data;
}

/** Lines of every design of the job, by its id. */
export function useAllLines(): Map<string, Lines> {
  const { recipe } = useJob().job;
  const designs = recipe.designs ?? [];
  const answers = useQueries({ queries: designs.map((design) => linesQuery(design, recipe.sheet)) });
  return new Map(designs.flatMap((design, n) => (answers[n]?.data ? [[design.id, answers[n].data] as const] : [])));
}

/** What each sticker of a sheet says, where a list drives labels. */
export function useSheetLabels(number: number): Painted[][] | undefined {
  const { job } = useJob();
  const listed = (job.recipe.designs ?? []).some((design) => design.labels);
  const { data } = useQuery({
    queryKey: ["label sheet", job.id, job.revision, number],
    enabled: listed && number < job.sheets.sheets.length,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("post_sheet_labels", { signal, path: { number: number + 1 }, body: job.recipe }),
  });
  return listed ? data : undefined;
}
