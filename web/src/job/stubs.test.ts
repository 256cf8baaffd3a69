import { expect, test } from "vitest";

import type { Job } from "../api/client";
import { count, stubs } from "./stubs";

const UNITS = { figure: (mm: number, decimals = 2) => mm.toFixed(decimals), length: (mm: number) => `${mm.toFixed(2)} mm` } as Parameters<typeof stubs>[1];

const job = (changes: object) =>
  ({
    designs: [{ ppi: 311.6 }],
    recipe: { designs: [{ border_mm: 2, peel_mm: null }] },
    findings: [],
    sheets: { stock: "A4 paper", count: 12, used_share: 0.634, marks: [[1, 1]], sheets: [{ placements: [] }, { placements: [] }] },
    prints: [],
    runs: [],
    ...changes,
  }) as unknown as Job;

const told = (changes: object) => stubs(job(changes), UNITS).map((stub) => `${stub.state}: ${stub.figures}`);

test("an empty job waits for pictures", () => {
  const [artwork, lines] = told({ designs: [], recipe: { designs: [] }, sheets: { stock: "A4 paper", marks: [], sheets: [] } });
  expect([artwork, lines]).toEqual(["next: drop pictures to begin", "waiting: kiss and through"]);
});

test("a stop outweighs what is to be looked at", () => {
  const found = [
    { station: "sheet", severity: "look" },
    { station: "sheet", severity: "stop" },
    { station: "lines", severity: "look" },
  ];
  const [, lines, sheet] = told({ findings: found });
  expect(lines).toBe("1 to look at: kiss 2.0 · no through");
  expect(sheet).toBe("stopped: 12 on 2 sheets · 63 % used");
});

test("while a nest is searched rows stand for it, which is nothing to look at; what else is found still is", () => {
  const sheets = { count: 12, used_share: 0.634, nest_waiting: true, sheets: [{ placements: [] }] };
  const waits = { code: "nest_waiting", station: "sheet", severity: "look" };
  expect(told({ sheets, findings: [waits] })[2]).toBe("rows for now: 12 on 1 sheet · 63 % used");
  expect(told({ sheets, findings: [waits, { code: "gap", station: "sheet", severity: "look" }] })[2]).toMatch(/^1 to look at/);
  expect(told({ sheets: { ...sheets, nest_waiting: false } })[2]).toMatch(/^ready/);
});

test("prints of older versions do not count, and a print cut twice is one", () => {
  const prints = [
    { id: 3, sheet: 1, state: "printed", current: true },
    { id: 2, sheet: 1, state: "printed", current: true },
    { id: 1, sheet: 2, state: "printed", current: false },
  ];
  const runs = [{ print_id: 3, state: "done", is_over: true }, { print_id: 3, state: "done", is_over: true }];
  const [, , , print, cut] = told({ prints, runs });
  expect(print).toBe("next: 1 of 2 sheets printed");
  expect(cut).toBe("next: 1 of 2 prints cut");
});

test("a run that goes on tells its line; the log tells yield and the largest slip", () => {
  const runs = [
    { print_id: 1, state: "cutting", is_over: false, lines_done: 7, lines_total: 48 },
    { print_id: 2, state: "done", is_over: true, good: 20, bad: 1, slip_largest_mm: 0.11 },
    { print_id: 3, state: "done", is_over: true, good: 21, bad: 0, slip_largest_mm: 0.23 },
  ];
  const found = told({ runs });
  expect(found[4]).toBe("cutting: line 7 of 48");
  expect(found[5]).toBe("1 bad: 41 of 42 within · slip 0.23 mm");
});

test("what was measured is to be counted still; what a person counted stands over it", () => {
  const run = { state: "done", is_over: true, good: 12, bad: 0, slip_largest_mm: 0.07 };
  expect(told({ runs: [run] })[5]).toBe("to count: 12 of 12 within · slip 0.07 mm");
  expect(told({ runs: [{ ...run, counted_good: 12, counted_bad: 0 }] })[5]).toBe("ready: 12 good of 12 · slip 0.07 mm");
  expect(told({ runs: [{ ...run, counted_good: 11, counted_bad: 1 }] })[5]).toBe("1 bad: 11 good of 12 · slip 0.07 mm");
});

test("one is one", () => expect([count(1, "piece"), count(2, "piece")]).toEqual(["1 piece", "2 pieces"]));
