import { expect, test } from "vitest";

import type { Recipe } from "../api/client";
import { isAccepted, makeTheSame, outdates, outdatingQuestion } from "./outdating";

const print = (id: number, sheet: number, state: "printed" | "failed" | "out" | "queued", current = true) => ({ id, sheet, state, current });

test("only sheets of this version that are on paper are left behind", () => {
  const job = { prints: [print(1, 0, "printed"), print(2, 1, "failed"), print(3, 1, "printed", false), print(4, 1, "queued")], runs: [] };
  expect(outdates(job).map((each) => each.id)).toEqual([1]);
});

test("the question names the sheets, and says whether they are cut", () => {
  const one = { prints: [print(1, 2, "printed")], runs: [{ print_id: 1, state: "done" as const }] };
  expect(outdatingQuestion(one).title).toBe("Sheet 3 is printed and cut already");
  const two = { prints: [print(1, 0, "printed"), print(2, 1, "out")], runs: [] };
  expect(outdatingQuestion(two).title).toBe("2 sheets are on paper already");
});

test("it is asked once for the same sheets, and again for new ones", async () => {
  let asked = 0;
  const yes = () => Promise.resolve((asked += 1) ? "change" : null);
  const recipe = {} as Recipe;
  const job = { recipe, prints: [print(11, 0, "printed")], runs: [] };
  expect(await isAccepted(yes, job)).toBe(true);
  expect(await isAccepted(yes, job)).toBe(true);
  expect(asked).toBe(1);
  expect(await isAccepted(() => Promise.resolve(null), { recipe, prints: [print(12, 0, "printed")], runs: [] })).toBe(false);
  expect(await isAccepted(yes, { recipe, prints: [], runs: [] })).toBe(true);
  expect(asked).toBe(1);
});

test("names, rights and prices leave no sheet behind, and are not asked about", async () => {
  const design = { id: "a", name: "Heron", artwork: "0", border_mm: 2 };
  const paper = { id: "a4", name: "A4", price: 0.4, width_mm: 210, height_mm: 297 };
  const before = { designs: [design], sheet: { paper }, order: false } as Recipe;
  const named = { ...before, designs: [{ ...design, name: "Grey heron", rights: { licence: "own" } }], sheet: { paper: { ...paper, price: 0.5 } }, order: true } as Recipe;
  const wider = { ...before, designs: [{ ...design, border_mm: 3 }] } as Recipe;
  expect(makeTheSame(before, named)).toBe(true);
  expect(makeTheSame(before, wider)).toBe(false);
  const job = { recipe: before, prints: [print(13, 0, "printed")], runs: [] };
  const no = () => Promise.resolve(null);
  expect(await isAccepted(no, job, () => named)).toBe(true);
  expect(await isAccepted(no, job, () => wider)).toBe(false);
});
