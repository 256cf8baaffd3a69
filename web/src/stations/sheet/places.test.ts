import { expect, test } from "vitest";

import type { Sheets } from "../../api/client";
import { firstOf, isIn, placesOf, snapped } from "./places";

const LIMITS: [number, number, number, number] = [10, 10, 200, 287];

test("a box near the edge of the area goes to it", () => {
  const { by, guides } = snapped([11, 100, 41, 130], [], LIMITS, 2);
  expect(by).toEqual([-1, 0]);
  expect(guides).toEqual([[10, 10, 10, 287]]);
});

test("a box beside another keeps the gap to it and lines up with it", () => {
  // The other ends at 80, so the box begins at 82; its top is at 100.
  const { by } = snapped([83, 101, 113, 121], [[50, 100, 80, 130]], LIMITS, 2);
  expect(by).toEqual([-1, -1]);
});

test("a box far from everything is left where it is", () => {
  expect(snapped([60, 60, 90, 80], [[120, 200, 150, 230]], LIMITS, 2)).toEqual({ by: [0, 0], guides: [] });
});

test("the nearer of two offers is taken", () => {
  const { by } = snapped([11.5, 50, 41.5, 80], [[12, 200, 60, 220]], LIMITS, 2);
  expect(by[0]).toBeCloseTo(0.5, 9);
});

test("places of a plan are told by their middle, sheet after sheet", () => {
  const place = { design: "d1", x_mm: 10, y_mm: 20, width_mm: 30, height_mm: 40, rotation_deg: 90, locked: true };
  const sheets = { sheets: [{ placements: [place, place] }, { placements: [place] }] } as unknown as Sheets;
  const places = placesOf(sheets);
  expect(places.map((each) => each.sheet)).toEqual([0, 0, 1]);
  expect(places[0]).toEqual({ design: "d1", sheet: 0, x_mm: 25, y_mm: 40, rotation_deg: 90, locked: true });
  expect(firstOf(sheets, 1)).toBe(2);
});

test("a point on the rim is in a box", () => {
  expect(isIn([0, 0, 10, 10], [10, 0])).toBe(true);
  expect(isIn([0, 0, 10, 10], [10.1, 0])).toBe(false);
});
