const MAX_ROWS = 8;

const told = (value: unknown): string => (value == null || value === "" ? "none" : typeof value === "object" ? JSON.stringify(value) : String(value));

/** A record as its fields; what is kept as text of JSON is read. */
function fields(value: unknown): Record<string, unknown> {
  if (typeof value === "string") {
    try {
      return fields(JSON.parse(value));
    } catch {
      return { value };
    }
  }
  return value !== null && typeof value === "object" ? (value as Record<string, unknown>) : { value };
}

/** Where two versions of a record differ, by field: "mat_width_mm" is told as "mat width mm". */
export function differences(theirs: unknown, mine: unknown): { what: string; theirs: string; yours: string }[] {
  const [one, other] = [fields(theirs), fields(mine)];
  // A record of a single field is told by its value alone on their side.
  const single = Object.keys(other).length === 1 && "value" in one ? { [Object.keys(other)[0]!]: one.value } : one;
  return Object.keys(other)
    .filter((name) => JSON.stringify(single[name]) !== JSON.stringify(other[name]))
    .slice(0, MAX_ROWS)
    .map((name) => ({ what: name.replaceAll("_", " "), theirs: told(single[name]), yours: told(other[name]) }));
}
