import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";

import { CATALOGUE } from "../api/constants";
import type { components } from "../api/schema";
import { MM_PER_INCH, type Unit } from "./lengths";
import { sentenceOf } from "./message";

export type { Unit };

interface Units {
  unit: Unit;
  setUnit: (unit: Unit) => void;
  /** A length without its unit: two decimals in mm, three in inches. */
  figure: (mm: number, decimals?: number) => string;
  /** A length with its unit. */
  length: (mm: number, decimals?: number) => string;
  /** Width and height with their unit. */
  size: (widthMm: number, heightMm: number, decimals?: number) => string;
  /** An area with its unit. */
  area: (mm2: number) => string;
  toMm: (value: number) => number;
  fromMm: (mm: number) => number;
  /** A message of the server's as a sentence, its lengths in the chosen unit. */
  sentence: (message: components["schemas"]["Message"]) => string;
}

const Context = createContext<Units | null>(null);

export function UnitsProvider({ children }: { children: ReactNode }) {
  const [unit, setUnit] = useState<Unit>(() => (localStorage.getItem("unit") === "in" ? "in" : "mm"));
  useEffect(() => localStorage.setItem("unit", unit), [unit]);
  const units = useMemo<Units>(() => {
    const fromMm = (mm: number) => (unit === "mm" ? mm : mm / MM_PER_INCH);
    const figure = (mm: number, decimals = 2) => {
      const text = fromMm(mm).toFixed(unit === "mm" ? decimals : decimals + 1);
      return /^-[0.]+$/.test(text) ? text.slice(1) : text;
    };
    const length = (mm: number, decimals = 2) => `${figure(mm, decimals)} ${unit}`;
    return {
      unit,
      setUnit,
      figure,
      length,
      size: (width, height, decimals = 1) => `${figure(width, decimals)} × ${length(height, decimals)}`,
      area: (mm2) => (unit === "mm" ? `${mm2 < 10 ? mm2.toFixed(2) : mm2.toFixed(0)} mm²` : `${(mm2 / MM_PER_INCH ** 2).toFixed(4)} in²`),
      fromMm,
      toMm: (value) => (unit === "mm" ? value : value * MM_PER_INCH),
      sentence: (message) => sentenceOf(message, CATALOGUE, unit),
    };
  }, [unit]);
  return <Context.Provider value={units}>{children}</Context.Provider>;
}

export function useUnits(): Units {
  const units = useContext(Context);
  if (!units) throw new Error("outside of UnitsProvider");
  return units;
}
