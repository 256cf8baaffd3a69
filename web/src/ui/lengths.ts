export const MM_PER_INCH = 25.4;

export type Unit = "mm" | "in";

/** A length as people type it ("60", "2,5", "2.5in", "1\"", "50 mm") in mm, or null when it is none. */
export function lengthTyped(text: string, unit: Unit): number | null {
  const match = /^\s*(-?(?:\d+[.,]?\d*|[.,]\d+))\s*(mm|in|")?\s*$/i.exec(text);
  if (!match) return null;
  const value = Number(match[1]!.replace(",", "."));
  const given = match[2]?.toLowerCase() ?? unit;
  return given === "mm" ? value : value * MM_PER_INCH;
}
