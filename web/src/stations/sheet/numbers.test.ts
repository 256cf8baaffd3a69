import { expect, test } from "vitest";

import { numbersDiffer } from "./numbers";

test("only numbers that the job took are compared", () => {
  expect(numbersDiffer({ width_mm: 210, marks: { pattern: "three" } }, { width_mm: 210, marks: { pattern: "three" }, left: 40 })).toBe(false);
  expect(numbersDiffer({ width_mm: 210 }, { width_mm: 216, left: 40 })).toBe(true);
  expect(numbersDiffer(null, { width_mm: 216 })).toBe(false);
});
