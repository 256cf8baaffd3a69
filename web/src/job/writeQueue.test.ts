import { expect, test } from "vitest";

import { WriteQueue } from "./writeQueue";

test("writes go one after the other, each after what the one before it left", async () => {
  const queue = new WriteQueue();
  let revision = 1;
  const seen: number[] = [];
  const write = (wait: number) => async () => {
    seen.push(revision);
    const from = revision;
    await new Promise((done) => setTimeout(done, wait));
    revision = from + 1;
  };
  await Promise.all([queue.add(write(8)), queue.add(write(1)), queue.add(write(3))]);
  expect(seen).toEqual([1, 2, 3]);
  expect(revision).toBe(4);
});

test("a write that fails is told to its own and holds up none behind it", async () => {
  const queue = new WriteQueue();
  const bad = queue.add(() => Promise.reject(new Error("stale")));
  const good = queue.add(() => Promise.resolve(7));
  await expect(bad).rejects.toThrow("stale");
  await expect(good).resolves.toBe(7);
});
