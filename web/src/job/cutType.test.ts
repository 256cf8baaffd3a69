import { expect, test } from "vitest";

import { type LineRecipe, PLAIN_LINES } from "../api/client";
import { CUT_TYPES, cutTypeOf, withCutType } from "./cutType";

const made = (way: (typeof CUT_TYPES)[number]["value"], lines: LineRecipe = PLAIN_LINES, peelMm: number | null = null) => {
  const [own, changes] = withCutType(way, lines, peelMm);
  return { lines: { ...lines, ...changes }, peelMm: own.peel_mm };
};

test("what is chosen is what the lines say afterwards, whatever was chosen before", () => {
  for (const { value: before } of CUT_TYPES)
    for (const { value: after } of CUT_TYPES) {
      const first = made(before);
      const second = made(after, first.lines, first.peelMm);
      expect(cutTypeOf(second.lines, second.peelMm), `${before}, then ${after}`).toBe(after);
    }
});

test("a peel margin and a tab that are there stay as they are", () => {
  const tab = { width_mm: 20, length_mm: 5, near: [0.5, 1] as [number, number] };
  const kept = made("tab", { ...PLAIN_LINES, tab }, 4.5);
  expect(kept.peelMm).toBe(4.5);
  expect(kept.lines.tab).toEqual(tab);
  expect(made("edge").peelMm).toBe(3);
  expect(made("sheet", kept.lines, 4.5).peelMm).toBeNull();
});
