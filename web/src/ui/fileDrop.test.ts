import { expect, test } from "vitest";

import { FileDrops } from "./fileDrop";

const file = (name: string) => new File(["x"], name);
const names = (files: File[]) => files.map((each) => each.name);

test("files dropped while a job opens wait for it", () => {
  const drops = new FileDrops();
  drops.hand([file("a.png")]);
  drops.hand([file("b.png")]);
  const taken: File[] = [];
  drops.take((files) => taken.push(...files));
  expect(names(taken)).toEqual(["a.png", "b.png"]);
});

test("files kept for the next page are not taken by the one that still stands", () => {
  const drops = new FileDrops();
  const list: File[] = [];
  const job: File[] = [];
  const leave = drops.take((files) => list.push(...files));
  drops.keepFor([file("c.png")]);
  leave();
  drops.take((files) => job.push(...files));
  expect(names(list)).toEqual([]);
  expect(names(job)).toEqual(["c.png"]);
});

test("the page shown last takes what is dropped, once", () => {
  const drops = new FileDrops();
  const under: File[] = [];
  const over: File[] = [];
  drops.take((files) => under.push(...files));
  const close = drops.take((files) => over.push(...files));
  drops.hand([file("d.png")]);
  close();
  drops.hand([file("e.png")]);
  expect([names(over), names(under)]).toEqual([["d.png"], ["e.png"]]);
});

test("files of one of two jobs that are begun at once go to that one", () => {
  const drops = new FileDrops();
  const other: File[] = [];
  const own: File[] = [];
  drops.keepFor([file("f.png")], 119);
  const leave = drops.take((files) => other.push(...files), 118);
  leave();
  drops.take((files) => own.push(...files), 119);
  expect([names(other), names(own)]).toEqual([[], ["f.png"]]);
});
