import { expect, test } from "vitest";

import { isAccepted, outdates, outdatingQuestion } from "./outdating";

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
  const job = { prints: [print(11, 0, "printed")], runs: [] };
  expect(await isAccepted(yes, job)).toBe(true);
  expect(await isAccepted(yes, job)).toBe(true);
  expect(asked).toBe(1);
  expect(await isAccepted(() => Promise.resolve(null), { prints: [print(12, 0, "printed")], runs: [] })).toBe(false);
  expect(await isAccepted(yes, { prints: [], runs: [] })).toBe(true);
  expect(asked).toBe(1);
});
