import { describe, expect, it } from "vitest";

import { looksAlike } from "./steady";

describe("whether a control looks as before", () => {
  it("minds values, not who hears of a change", () => {
    expect(looksAlike({ mm: 2, onKeep: () => 1 }, { mm: 2, onKeep: () => 2 })).toBe(true);
    expect(looksAlike({ mm: 2 }, { mm: 2.1 })).toBe(false);
    expect(looksAlike({ mm: NaN }, { mm: NaN })).toBe(true);
  });

  it("minds what lists of options hold", () => {
    const options = () => [{ value: "a", label: "A" }, { value: "b", label: "B" }];
    expect(looksAlike({ options: options() }, { options: options() })).toBe(true);
    expect(looksAlike({ options: options() }, { options: options().slice(1) })).toBe(false);
    expect(looksAlike({ options: options() }, { options: [{ value: "a", label: "A" }, { value: "b", label: "C" }] })).toBe(false);
  });

  it("minds what is there and what is not", () => {
    expect(looksAlike({ mm: 2 }, { mm: 2, step: 1 })).toBe(false);
    expect(looksAlike({ mm: 2, step: undefined }, { mm: 2, from: 1 })).toBe(false);
    expect(looksAlike({ onMove: () => 1 }, { onMove: undefined })).toBe(false);
    expect(looksAlike([], {})).toBe(false);
  });
});
