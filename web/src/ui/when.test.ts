import { expect, test } from "vitest";

import { dayOf, fieldOf, fromField } from "./when";

const NOON = new Date(2026, 10, 27, 12);

test("days nearby are called by their names", () => {
  expect(dayOf(new Date(2026, 10, 27, 23), NOON)).toBe("today");
  expect(dayOf(new Date(2026, 10, 28, 0), NOON)).toBe("tomorrow");
  expect(dayOf(new Date(2026, 10, 26, 0), NOON)).toBe("yesterday");
  expect(dayOf(new Date(2026, 11, 4), NOON)).toBe("Fri 4 Dec");
  expect(dayOf(new Date(2028, 0, 3), NOON)).toMatch(/2028/);
});

test("a time goes into its field and out of it again", () => {
  const at = new Date(2026, 11, 4, 9, 5).toISOString();
  expect(fieldOf(at)).toBe("2026-12-04T09:05");
  expect(fromField(fieldOf(at))).toBe(at);
  expect(fromField("")).toBeNull();
  expect(fieldOf(null)).toBe("");
});
