import { expect, test } from "vitest";

import { PAGE, pageAfter, titleFor } from "./pages";

test("a full page is followed by another, one that is not full is the last", () => {
  const rows = Array.from({ length: PAGE }, (_, n) => ({ id: 900 - n, updated_at: `2026-11-26T08:00:${n}Z` }));
  expect(pageAfter(rows)).toEqual({ before: "2026-11-26T08:00:99Z", last: 801 });
  expect(pageAfter(rows.slice(1))).toBeUndefined();
  expect(pageAfter([])).toBeUndefined();
});

test.each([
  [["light_house-2.final.png"], "Light house 2.final"],
  [["gull.png", "b.png", "c.png"], "Gull and 2 more"],
  [[], "New job"],
  [[".png"], "New job"],
] as const)("a job begun with %j is called %j", (names, title) => {
  expect(titleFor(names.map((name) => ({ name })))).toBe(title);
});
