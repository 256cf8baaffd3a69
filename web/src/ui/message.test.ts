import { expect, test } from "vitest";

import { sentenceOf } from "./message";

const CATALOGUE = {
  patch: "A patch of {area} inside {name}.",
  near: "{apart} apart; the gap is {gap}.",
  size: "{size} fits nowhere.",
  specks: "{count} {count?speck|specks}{more}",
  more: ", {left} more",
  turn: "{turn}, {share}",
  deep: "{deep}",
};
const mm = (value: number, decimals: number | null = null) => ({ value, unit: "mm" as const, decimals });

test("areas and lengths are converted by their unit, and different limits stay different", () => {
  const patch = { code: "patch", params: { area: { value: 12, unit: "mm2" as const, decimals: null }, name: "Heron" } };
  expect(sentenceOf(patch, CATALOGUE, "mm")).toBe("A patch of 12 mm² inside Heron.");
  expect(sentenceOf(patch, CATALOGUE, "in")).toBe("A patch of 0.019 in² inside Heron."); // 12 / 645.16
  const near = { code: "near", params: { apart: mm(0.25, 2), gap: mm(0.3) } };
  expect(sentenceOf(near, CATALOGUE, "in")).toBe("0.010 in apart; the gap is 0.012 in.");
  const size = { code: "size", params: { size: { width_mm: 254, height_mm: 127, decimals: 1 } } };
  expect(sentenceOf(size, CATALOGUE, "in")).toBe("10.00 × 5.00 in fits nowhere.");
  expect(sentenceOf(size, CATALOGUE, "mm")).toBe("254.0 × 127.0 mm fits nowhere.");
});

test("words follow the number, and one message may lie in another", () => {
  const more = { code: "more", params: { left: 2 } };
  expect(sentenceOf({ code: "specks", params: { count: 1, more } }, CATALOGUE, "mm")).toBe("1 speck, 2 more");
  expect(sentenceOf({ code: "specks", params: { count: 3, more: "" } }, CATALOGUE, "mm")).toBe("3 specks");
  const turn = { value: 0.5, unit: "deg" as const, decimals: 2 };
  expect(sentenceOf({ code: "turn", params: { turn, share: { value: 38, unit: "percent" as const, decimals: 0 } } }, CATALOGUE, "in")).toBe("0.50°, 38 %");
});

test("what is unknown or too deep says nothing", () => {
  expect(sentenceOf({ code: "gone", params: {} }, CATALOGUE, "mm")).toBe("");
  let deep: { code: string; params: object } = { code: "deep", params: { deep: "end" } };
  for (let n = 0; n < 9; n += 1) deep = { code: "deep", params: { deep } };
  expect(sentenceOf(deep as never, CATALOGUE, "mm")).toBe("");
});
