import type { components } from "../api/schema";
import { MM_PER_INCH, type Unit } from "./lengths";

type Message = components["schemas"]["Message"];
type Param = NonNullable<Message["params"]>[string];

const SYMBOLS: Record<string, string> = { um: " µm", ppi: " ppi", percent: " %", deg: "°", kgf: " kgf", days: " days" };
const MAX_DEPTH = 4;

/** As few digits as a number needs, six at most, as the server writes it. */
const plain = (value: number) => String(Number(value.toPrecision(6)));
/** A number that JSON cannot hold comes as null. */
const fixed = (number: number | null, decimals?: number | null) => {
  const value = number ?? Number.NaN;
  return decimals == null ? plain(value) : value.toFixed(decimals);
};

const inUnit = (mm: number, decimals: number | null | undefined, unit: Unit) =>
  unit === "mm" ? fixed(mm, decimals) : (mm / MM_PER_INCH).toFixed(decimals == null ? 3 : Math.max(2, decimals + 1));

function told(value: Param | undefined, catalogue: Record<string, string>, unit: Unit, depth: number): string {
  if (value === undefined) return "";
  if (typeof value !== "object") return String(value);
  if ("code" in value) return sentenceOf(value, catalogue, unit, depth + 1);
  if ("width_mm" in value) return `${inUnit(value.width_mm, value.decimals, unit)} × ${inUnit(value.height_mm, value.decimals, unit)} ${unit}`;
  if (value.unit === "mm") return `${inUnit(value.value, value.decimals, unit)} ${unit}`;
  if (value.unit === "mm2")
    return unit === "mm" ? `${fixed(value.value, value.decimals)} mm²` : `${(value.value / MM_PER_INCH ** 2).toFixed(value.decimals == null ? 3 : value.decimals + 2)} in²`;
  return fixed(value.value, value.decimals) + (SYMBOLS[value.unit] ?? "");
}

/** A message as a sentence, its lengths in the person's unit: `core/catalogue` does the same on the server. */
export function sentenceOf(message: Message, catalogue: Record<string, string>, unit: Unit, depth = 0): string {
  if (depth > MAX_DEPTH) return "";
  return (catalogue[message.code] ?? "").replace(/\{(\w+)(?:\?([^|}]*)\|([^}]*))?\}/g, (_, name: string, one?: string, many?: string) => {
    const value = message.params?.[name];
    if (one !== undefined) return value === 1 ? one : (many ?? "");
    return told(value, catalogue, unit, depth);
  });
}
