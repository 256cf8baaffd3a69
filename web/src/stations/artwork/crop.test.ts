import { expect, test } from "vitest";

import { cropToBox, dragged, largest, stretchInto, stretchWords } from "./crop";

test("the largest part with the sides of a box lies about the middle", () => {
  // A square of a picture 600 × 400 is 400 wide and begins at 100.
  expect(largest([600, 400], 1)).toEqual({ left: 100, top: 0, width: 400, height: 400 });
  expect(largest([400, 600], 2)).toEqual({ left: 0, top: 200, width: 400, height: 200 });
});

test("a crop to a box has its sides exactly, rounding included", () => {
  const crop = cropToBox([1000, 700], [30, 40]);
  expect(((crop.height_px / crop.width_px) * crop.stretch!) / (40 / 30)).toBeCloseTo(1, 9);
  expect(crop.left_px + crop.width_px).toBeLessThanOrEqual(1000);
});

test("what is stretched is said", () => {
  expect(stretchInto([400, 200], [50, 50]).stretch).toBe(2);
  expect(stretchWords(1.08)).toBe("8 % taller");
  expect(stretchWords(0.8)).toBe("25 % wider");
  expect(stretchWords(1.004)).toBeNull();
});

test("a corner is drawn no further than the picture and keeps its aspect", () => {
  const from = { left: 100, top: 100, width: 100, height: 100 };
  expect(dragged(from, "se", 500, 20, [400, 300], null)).toEqual({ left: 100, top: 100, width: 300, height: 120 });
  const kept = dragged(from, "nw", -300, -300, [400, 300], 1);
  expect(kept).toEqual({ left: 0, top: 0, width: 200, height: 200 });
  expect(dragged(from, "move", 900, -900, [400, 300], null)).toEqual({ left: 300, top: 0, width: 100, height: 100 });
});
