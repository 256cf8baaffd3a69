import { memo, type ReactNode, useCallback, useLayoutEffect, useRef } from "react";

type Handler = (...given: never[]) => unknown;

const isHandler = (value: unknown): value is Handler => typeof value === "function";

/** Whether what two lists or objects hold is the same, one level deep for each. */
export const looksAlike = (a: unknown, b: unknown, depth = 3): boolean => {
  if (Object.is(a, b) || (isHandler(a) && isHandler(b))) return true;
  if (depth === 0 || typeof a !== "object" || typeof b !== "object" || !a || !b) return false;
  const [mine, theirs] = [Object.entries(a), b as Record<string, unknown>];
  return Array.isArray(a) === Array.isArray(b) && mine.length === Object.keys(b).length && mine.every(([key, value]) => key in b && looksAlike(value, theirs[key], depth - 1));
};

/**
 * A component that is drawn again only when what it shows changed. Its handlers may be others each time: the one that is
 * called is the latest. For controls that stand beside one that is dragged.
 */
export function steady<P extends object>(Shown: (props: P) => ReactNode): (props: P) => ReactNode {
  const Drawn = memo(Shown, (before, now) => looksAlike(before, now)) as unknown as (props: P) => ReactNode;
  return function Steady(props: P) {
    const latest = useRef(props);
    useLayoutEffect(() => {
      latest.current = props;
    });
    const call = useCallback((name: string, given: never[]) => {
      const handler = (latest.current as Record<string, unknown>)[name];
      return isHandler(handler) ? handler(...given) : undefined;
    }, []);
    const steadied = Object.entries(props).map(([name, value]) => [name, isHandler(value) ? (...given: never[]) => call(name, given) : value]);
    return <Drawn {...(Object.fromEntries(steadied) as P)} />;
  };
}
