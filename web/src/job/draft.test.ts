import { expect, test } from "vitest";

import { DraftTurns } from "./draft";

test("a draft is put away when what was kept has arrived", async () => {
  let away = 0;
  await new DraftTurns().settle(Promise.resolve(), () => away++);
  expect(away).toBe(1);
});

test("it stays while a newer one is tried, and while a newer one is being kept", async () => {
  const turns = new DraftTurns();
  const put: string[] = [];
  let first = () => {};
  let second = () => {};
  const a = turns.settle(new Promise<void>((done) => (first = done)), () => put.push("first"));
  const b = turns.settle(new Promise<void>((done) => (second = done)), () => put.push("second"));
  first();
  await a;
  expect(put).toEqual([]);
  turns.attempt();
  second();
  await b;
  expect(put).toEqual([]);
});
