import type { Design, LineRecipe, Schemas } from "../api/client";

export type ComesOff = Schemas["Habit"]["comes_off"];

const PEEL_MM = 3;
const TAB = { width_mm: 12, length_mm: 8, near: null };

/** How pieces come off, as somebody would say it, and what that makes of their lines. */
export const WAYS_OFF: { value: ComesOff; label: string; told: string }[] = [
  { value: "sheet", label: "Off their sheet", told: "Kiss: stickers peel from the sheet, which stays whole" },
  { value: "edge", label: "Single, with an edge to peel", told: "Kiss, and a through line a little outside" },
  { value: "tab", label: "Single, with a tab to pull", told: "As with an edge, and a tab of backing stands out" },
  { value: "through", label: "Cut through", told: "Cut through everything, backing and all" },
  { value: "tear_out", label: "Torn out of a frame", told: "Kiss inside a perforated line, held by small ties" },
];

/** What a piece's lines say of how it comes off. */
export function comesOff(lines: LineRecipe, peelMm: number | null | undefined): ComesOff {
  if (lines.own === "through") return "through";
  if (peelMm == null) return "sheet";
  if (lines.outer === "perforate") return "tear_out";
  return lines.tab ? "tab" : "edge";
}

/** The changes that make a piece come off so; a peel margin and a tab that are there stay as they are. */
export function cameOff(way: ComesOff, now: LineRecipe, peelMm: number | null | undefined): [Partial<Design>, Partial<LineRecipe>] {
  const single = way === "edge" || way === "tab" || way === "tear_out";
  return [
    { peel_mm: single ? (peelMm ?? PEEL_MM) : null },
    {
      own: way === "through" ? "through" : "kiss",
      ...(single ? { outer: way === "tear_out" ? "perforate" : "through" } : {}),
      tab: way === "tab" ? (now.tab ?? TAB) : null,
    },
  ];
}
