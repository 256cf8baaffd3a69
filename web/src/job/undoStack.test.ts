import { expect, test } from "vitest";

import { type Entry, nextUndo, pushed } from "./undoStack";

const at = (minute: number) => `2026-12-01T10:${String(minute).padStart(2, "0")}:00Z`;
const job = (step: number, label: string, minute = 0, more: object = {}) => ({ step, step_label: label, can_undo: true, kept_at: at(minute), prints: [], runs: [], ...more });
const step = (number: number, label: string): Entry => ({ kind: "step", step: number, label });
const count: Entry = { kind: "act", label: "Count of cut 7", act: { do: "count", run: 7, before: null } };

test("the last step is walked back by its name", () => {
  expect(nextUndo([step(4, "Border 2 mm")], job(4, "Border 2 mm"))).toEqual({ do: "walk", label: "Border 2 mm" });
});

test("a count after a step is taken back before the step", () => {
  const stack = [step(4, "Border 2 mm"), count];
  expect(nextUndo(stack, job(4, "Border 2 mm"))).toEqual({ do: "act", label: "Count of cut 7", act: { do: "count", run: 7, before: null } });
  expect(nextUndo(stack.slice(0, 1), job(4, "Border 2 mm"))?.do).toBe("walk");
});

test("what cannot be undone is said, and holds what lies under it", () => {
  const found = nextUndo([step(4, "Border 2 mm"), { kind: "fixed", label: "Print of sheet 1" }], job(4, "Border 2 mm"));
  expect(found?.do).toBe("say");
  expect(found?.do === "say" && found.text).toContain("“Print of sheet 1” cannot be undone");
});

test("what another window did is not taken back without a word", () => {
  const found = nextUndo([step(4, "Border 2 mm")], job(5, "Peel margin 3 mm"));
  expect(found).toMatchObject({ do: "say", label: "Peel margin 3 mm" });
});

test("a window that has done nothing undoes a step only if nothing came after it", () => {
  expect(nextUndo([], job(4, "Border 2 mm", 5))).toEqual({ do: "walk", label: "Border 2 mm" });
  const printed = job(4, "Border 2 mm", 5, { prints: [{ id: 9, sheet: 0, created_at: at(6) }], runs: [{ id: 3, created_at: at(7) }] });
  expect(nextUndo([], printed)).toMatchObject({ do: "say", label: "Cut 3" });
  expect(nextUndo([], job(1, "Begin", 0, { can_undo: false }))).toBeNull();
});

test("a stack is bounded, its newest entries stay", () => {
  let stack: Entry[] = [];
  for (let n = 0; n < 100; n += 1) stack = pushed(stack, step(n, `Step ${n}`));
  expect(stack).toHaveLength(60);
  expect(stack.at(-1)).toEqual(step(99, "Step 99"));
});
