import { expect, test } from "vitest";

import { asksForNames, movedBy, nameOf, namesOf, newGround, newWords } from "./parts";

test("a part dropped near its place lies in it", () => {
  const words = newWords("Ferry");
  expect(movedBy(words, 0.9, -1.1)).toEqual({ x_mm: 0, y_mm: 0 });
  expect(movedBy(words, 3.14159, 0)).toEqual({ x_mm: 3.1, y_mm: 0 });
  expect(movedBy({ ...words, x_mm: 3.1 }, -2.5, 0)).toEqual({ x_mm: 0, y_mm: 0 });
});

test("a list of names is read a line each", () => {
  expect(namesOf(" Ada\n\nBo ;Cy")).toEqual(["Ada", "Bo", "Cy"]);
  expect(asksForNames([newGround(), newWords("{name}, mate")])).toBe(true);
  expect(asksForNames([newWords("mate")])).toBe(false);
  expect(nameOf(newWords("two\nlines"))).toBe("two / lines");
});
