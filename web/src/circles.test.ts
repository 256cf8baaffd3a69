import { expect, it } from "vitest";

const SOURCES = import.meta.glob<string>(["./**/*.{ts,tsx}", "!./**/*.test.{ts,tsx}"], { query: "?raw", import: "default", eager: true });

/** "./a/b.tsx" and "../c" make "./c". */
const beside = (file: string, path: string) => {
  const at = file.split("/").slice(0, -1);
  for (const step of path.split("/")) {
    if (step === "..") at.pop();
    else if (step !== ".") at.push(step);
  }
  return at.join("/");
};

/** Files of ours that a file imports; for their types too. */
const importsOf = (file: string, text: string) =>
  [...text.matchAll(/from "(\.[^"]+)"/g)].flatMap(([, path]) => [".ts", ".tsx"].map((kind) => beside(file, path!) + kind).filter((each) => each in SOURCES));

/** What is left when files that import no other of those left are taken away again and again. */
function inCircles(arrows: Map<string, string[]>): string[] {
  const left = new Map(arrows);
  for (;;) {
    const free = [...left].filter(([, to]) => !to.some((each) => left.has(each)));
    if (!free.length) return [...left.keys()];
    free.forEach(([file]) => left.delete(file));
  }
}

it("has no circle among its files, of types neither", () => {
  const arrows = new Map(Object.entries(SOURCES).map(([file, text]) => [file, importsOf(file, text)]));
  expect(arrows.get("./job/job.tsx")).toContain("./job/Conflict.tsx");
  expect(inCircles(arrows)).toEqual([]);
});

it("would see one", () => {
  const arrows = { a: ["b"], b: ["c"], c: ["b"], d: ["a"], e: [] };
  expect(inCircles(new Map(Object.entries(arrows)))).toEqual(["a", "b", "c", "d"]);
});
