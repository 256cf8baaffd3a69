import { expect, test } from "vitest";

import { merged, onlyMore } from "./merge";

const recipe = (mend: object, more: object = {}) => ({ designs: [{ id: "d1", border_mm: 2, mend }, { id: "d2", border_mm: 2, mend: {} }], sheet: { gap_mm: 2, card: null as object | null }, ...more });

test("two fields of one frame, changed one after the other before the first was back", () => {
  const base = recipe({ frame: { shape: "rounded", border_mm: 0 } });
  const oval = recipe({ frame: { shape: "ellipse", border_mm: 0 } });
  const border = recipe({ frame: { shape: "rounded", border_mm: 3 } });
  expect(merged(base, border, oval)).toEqual(recipe({ frame: { shape: "ellipse", border_mm: 3 } }));
});

test("two strokes drawn quickly are both there, in their order", () => {
  const [a, b, c] = [{ kind: "erase", points: [[1, 1]] }, { kind: "erase", points: [[2, 2]] }, { kind: "restore", points: [[3, 3]] }];
  expect(merged(recipe({ strokes: [a] }), recipe({ strokes: [a, c] }), recipe({ strokes: [a, b] }))).toEqual(recipe({ strokes: [a, b, c] }));
});

test("the later of two values of one field is taken", () => {
  expect(merged(recipe({ specks_px2: 1 }), recipe({ specks_px2: 3 }), recipe({ specks_px2: 2 }))).toEqual(recipe({ specks_px2: 3 }));
});

test("what another added stays, what I removed goes, what I changed is changed", () => {
  const [one, two, three] = [{ id: "d1", n: 1 }, { id: "d2", n: 2 }, { id: "d3", n: 3 }];
  expect(merged([one, two], [{ ...one, n: 9 }], [one, two, three])).toEqual([{ ...one, n: 9 }, three]);
  expect(merged([one], [one, two], [one, three])).toEqual([one, three, two]);
});

test("a part that was taken away stays away", () => {
  const base = { sheet: { gap_mm: 2, card: { heading: "Birds" } as object | null } };
  expect(merged(base, { sheet: { gap_mm: 2, card: null } }, { sheet: { gap_mm: 4, card: { heading: "Birds" } } })).toEqual({ sheet: { gap_mm: 4, card: null } });
});

test("nothing in between leaves the change as it is", () => {
  const base = recipe({});
  expect(merged(base, recipe({ specks_px2: 3 }), base)).toEqual(recipe({ specks_px2: 3 }));
});

test("more designs alone are no other version, anything else is", () => {
  const [one, two] = [{ id: "d1", n: 1 }, { id: "d2", n: 2 }];
  const job = (...designs: { id: string; n: number }[]) => ({ designs, sheet: { gap_mm: 2 } });
  expect(onlyMore(job(one), job(one, two))).toBe(true);
  expect(onlyMore(job(two), job(one, two))).toBe(true);
  expect(onlyMore(job(one), { sheet: { gap_mm: 2 }, designs: [{ n: 1, id: "d1" }, two] })).toBe(true);
  expect(onlyMore(job(one), job(one))).toBe(false);
  expect(onlyMore(job(one), job({ ...one, n: 3 }, two))).toBe(false);
  expect(onlyMore(job(one, two), job(two))).toBe(false);
  expect(onlyMore(job(one), { ...job(one, two), sheet: { gap_mm: 3 } })).toBe(false);
});
