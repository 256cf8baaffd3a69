import { hashKey } from "@tanstack/react-query";

type Plain = Record<string, unknown>;

// A recipe comes back from the database with its keys in another order.
const same = (a: unknown, b: unknown) => hashKey([a]) === hashKey([b]);
const isPlain = (value: unknown): value is Plain => typeof value === "object" && value !== null && !Array.isArray(value);
const isNamed = (list: unknown[]): list is { id: string }[] => list.every((each) => isPlain(each) && typeof each.id === "string");

/**
 * A change that was made to what was shown, on what holds by now: quick hands make the next change before the last
 * one is back. What both changed in one place is taken from the later change, `mine`.
 */
export function merged<T>(base: T, mine: T, now: T): T {
  return either(base, mine, now) as T;
}

function either(base: unknown, mine: unknown, now: unknown): unknown {
  if (same(base, mine)) return now;
  if (same(base, now)) return mine;
  if (isPlain(base) && isPlain(mine) && isPlain(now)) return fields(base, mine, now);
  if (Array.isArray(base) && Array.isArray(mine) && Array.isArray(now)) return items(base, mine, now);
  return mine;
}

function fields(base: Plain, mine: Plain, now: Plain): Plain {
  const keys = new Set([...Object.keys(now), ...Object.keys(mine)]);
  return Object.fromEntries([...keys].map((key) => [key, either(base[key], mine[key], now[key])]));
}

function items(base: unknown[], mine: unknown[], now: unknown[]): unknown[] {
  if (isNamed(base) && isNamed(mine) && isNamed(now) && mine.length > 0) {
    const was = new Map(base.map((each) => [each.id, each]));
    const wanted = new Map(mine.map((each) => [each.id, each]));
    const there = new Set(now.map((each) => each.id));
    const kept = now.filter((each) => wanted.has(each.id) || !was.has(each.id));
    const added = mine.filter((each) => !was.has(each.id) && !there.has(each.id));
    return [...kept.map((each) => (wanted.has(each.id) ? either(was.get(each.id), wanted.get(each.id), each) : each)), ...added];
  }
  // One more at the end, as strokes, nodes and colours come.
  if (mine.length > base.length && same(mine.slice(0, base.length), base)) return [...now, ...mine.slice(base.length)];
  return mine;
}

/** Whether nothing but more designs came to a recipe. */
export function onlyMore<T extends { designs?: { id: string }[] }>(before: T, now: T): boolean {
  const there = new Set(before.designs?.map((design) => design.id));
  const kept = { ...now, designs: now.designs?.filter((design) => there.has(design.id)) };
  return (now.designs?.length ?? 0) > there.size && same(before, kept);
}
