import type { Design, LineRecipe, Schemas } from "../api/client";

/** How the stickers of new jobs are cut, as the shop has it. */
export type UsualCutType = Schemas["Habit"]["comes_off"];
export type CutType = UsualCutType | "print";

const PEEL_MM = 3;
const TAB = { width_mm: 12, length_mm: 8, near: null };

/** The cut types that a shop may have as its usual one, with what each of them is. */
export const USUAL_CUT_TYPES: { value: UsualCutType; label: string; told: string }[] = [
  { value: "sheet", label: "Kiss", told: "Stickers peel from the sheet, which stays whole" },
  { value: "edge", label: "Peel edge", told: "Kiss, and a through line a little outside" },
  { value: "tab", label: "Pull tab", told: "As with a peel edge, and a tab of backing to pull" },
  { value: "through", label: "Through", told: "Single stickers, cut through everything" },
  { value: "tear_out", label: "Tear-out", told: "Kiss inside a perforated frame, held by small ties" },
];
export const CUT_TYPES: { value: CutType; label: string; told: string }[] = [...USUAL_CUT_TYPES, { value: "print", label: "Print only", told: "Printed in its place on the sheet, and not cut" }];

/** The cut type that a piece's lines make. */
export function cutTypeOf(lines: LineRecipe, peelMm: number | null | undefined): CutType {
  if (lines.own === "none") return "print";
  if (lines.own === "through") return "through";
  if (peelMm == null) return "sheet";
  if (lines.outer === "perforate") return "tear_out";
  return lines.tab ? "tab" : "edge";
}

/** The changes that give a piece a cut type; a peel margin and a tab that are there stay as they are. */
export function withCutType(type: CutType, now: LineRecipe, peelMm: number | null | undefined): [Partial<Design>, Partial<LineRecipe>] {
  const single = type === "edge" || type === "tab" || type === "tear_out";
  return [
    { peel_mm: single ? (peelMm ?? PEEL_MM) : null },
    {
      own: type === "through" ? "through" : type === "print" ? "none" : "kiss",
      ...(single ? { outer: type === "tear_out" ? "perforate" : "through" } : {}),
      tab: type === "tab" ? (now.tab ?? TAB) : null,
    },
  ];
}
