import { keepPreviousData, skipToken, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";

import { call, type Design, type Lines, type MovingLines, type Painted, PLAIN_LINES, type SheetRecipe, UNMENDED } from "../api/client";
import { useJob } from "./job";

/** What lines are cut in and with: the face of the sheet's stock, and the knife of its plotter. */
const toolingOf = (sheet: SheetRecipe | undefined) => ({ face: sheet?.paper?.face ?? "paper", knife_offset_mm: sheet?.plotter?.knife_offset_mm ?? 0.25 }) as const;

const linesKey = (of: "lines" | "moving lines", design: Design | undefined, sheet: SheetRecipe | undefined) => [
  of, design?.id, design?.name, design?.artwork, design?.mend, design?.longest_mm, design?.border_mm, design?.peel_mm, design?.lines, toolingOf(sheet),
];

const question = (design: Design, sheet: SheetRecipe | undefined) => ({
  artwork: design.artwork,
  mend: design.mend ?? UNMENDED,
  longest_mm: design.longest_mm ?? 60,
  border_mm: design.border_mm ?? 0,
  peel_mm: design.peel_mm ?? null,
  lines: design.lines ?? PLAIN_LINES,
  ...toolingOf(sheet),
  design: design.id,
  name: design.name,
});

const linesQuery = (design: Design, sheet: SheetRecipe | undefined) => ({
  queryKey: linesKey("lines", design, sheet),
  queryFn: ({ signal }: { signal: AbortSignal }) => call("post_lines", { signal, body: question(design, sheet) }),
  staleTime: Infinity,
});

/**
 * Lines of one design; the ones before stay while new ones come. While something is `moving` only what is drawn is
 * asked for: what was measured along the line waits until it has come to rest.
 */
export function useLines(design: Design | undefined, moving = false): Lines | undefined {
  const { sheet } = useJob().job.recipe;
  const client = useQueryClient();
  const moved = useQuery<MovingLines>({
    queryKey: linesKey("moving lines", design, sheet),
    queryFn: design && moving ? ({ signal }) => call("post_moving_lines", { signal, body: question(design, sheet) }) : skipToken,
    staleTime: Infinity,
    placeholderData: (before: MovingLines | undefined, of) => (of?.queryKey[1] === design?.id ? before : undefined),
  });
  const rest = useRef<Design | undefined>(design);
  useEffect(() => {
    if (!moving) rest.current = design;
  }, [design, moving]);
  const still = moving && rest.current?.id === design?.id ? rest.current : design;
  const whole = useQuery<Lines>({
    queryKey: linesKey("lines", still, sheet),
    queryFn: still ? ({ signal }) => call("post_lines", { signal, body: question(still, sheet) }) : skipToken,
    staleTime: Infinity,
    placeholderData: (before: Lines | undefined, of) => {
      if (!before || of?.queryKey[1] !== design?.id) return undefined;
      // What was drawn while it moved stands until all of it is told.
      return { ...before, ...client.getQueryData<MovingLines>(linesKey("moving lines", still, sheet)) };
    },
  });
  return useMemo(() => (moving && whole.data && moved.data ? { ...whole.data, ...moved.data } : whole.data), [moving, whole.data, moved.data]);
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
