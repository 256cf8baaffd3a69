import { useCallback, useRef } from "react";

/** Have asynchronous work done one after the other, so that two quick changes do not undo each other. */
export function useInTurn() {
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useCallback((work: () => Promise<unknown>) => {
    last.current = last.current.then(work, work);
  }, []);
}
