import { expect, test } from "vitest";

import { differences } from "./differences";

test("only fields that differ are told, by plain names", () => {
  const rows = differences({ name: "Mat", mat_width_mm: 305, address: "" }, { name: "Mat", mat_width_mm: 300, address: "socket://a:1" });
  expect(rows).toEqual([
    { what: "mat width mm", theirs: "305", yours: "300" },
    { what: "address", theirs: "none", yours: "socket://a:1" },
  ]);
});

test("what the server keeps as text is compared as what it says", () => {
  expect(differences('{"hands":2,"setup_min":5}', { hands: 3, setup_min: 5 })).toEqual([{ what: "hands", theirs: "2", yours: "3" }]);
  expect(differences("Kiosk 7", { name: "Kiosk" })).toEqual([{ what: "name", theirs: "Kiosk 7", yours: "Kiosk" }]);
});
