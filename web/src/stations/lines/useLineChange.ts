import { type Design, type LineRecipe, PLAIN_LINES } from "../../api/client";
import { useJob } from "../../job/job";
import { type Scope } from "../scope";
import { useDraft } from "../../job/useDraft";

/** Lines that are tried while something moves, and kept as a step when it is let go. */
export function useLineChange(scope: Scope) {
  const { job, selected, change } = useJob();
  const [draft, setDraft, settle] = useDraft<Partial<Design>>({}, selected?.id);
  const many = (job.recipe.designs ?? []).length > 1;
  const now: LineRecipe = { ...PLAIN_LINES, ...selected?.lines };
  const shown = selected && { ...selected, ...draft };
  const forOne = (label: string) => `${label}${many && scope === "one" ? `, ${selected?.name}` : ""}`;

  /** `lines` are merged into each piece's own, so that one setting for all leaves the others as they are. */
  const keep = (label: string, changes: Partial<Design>, lines: Partial<LineRecipe> = {}) =>
    settle(change(forOne(label), (recipe) => ({
      ...recipe,
      designs: (recipe.designs ?? []).map((each) =>
        (many && scope === "all") || each.id === selected?.id ? { ...each, ...changes, lines: { ...PLAIN_LINES, ...each.lines, ...lines } } : each,
      ),
    }))); // kept or refused, what is shown is what is kept

  const attempt = (changes: Partial<Design>, lines: Partial<LineRecipe> = {}) =>
    setDraft((before) => ({ ...before, ...changes, lines: { ...now, ...before.lines, ...lines } }));
  return { shown, now, keep, attempt, moving: Object.keys(draft).length > 0 };
}

export type LineChange = ReturnType<typeof useLineChange>;
