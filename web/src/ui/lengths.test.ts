import { expect, test } from "vitest";

import { lengthTyped } from "./lengths";

test.each([
  ["60", "mm", 60],
  [" 2,5 ", "mm", 2.5],
  ["2.5in", "mm", 63.5],
  ['1"', "mm", 25.4],
  ["50 mm", "in", 50],
  ["2", "in", 50.8],
  ["-3", "mm", -3],
  [".5 IN", "mm", 12.7],
] as const)("%j typed in %s is %d mm", (text, unit, mm) => {
  expect(lengthTyped(text, unit)).toBeCloseTo(mm, 9);
});

test.each(["", "sixty", "6 0", "1.2.3", "1,2,3", "2 cm", "1e3", "--1", "NaN"])("%j is no length", (text) => {
  expect(lengthTyped(text, "mm")).toBeNull();
});
