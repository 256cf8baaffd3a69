import { useCallback, useEffect, useRef, useState } from "react";

import { DraftTurns } from "./draft";

/** A value that is being tried, until what was kept of it has arrived. */
export function useDraft<T>(nothing: T, owner: unknown) {
  const [draft, setDraft] = useState<T>(nothing);
  const [turns] = useState(() => new DraftTurns());
  const none = useRef(nothing);
  useEffect(() => setDraft(none.current), [owner]);
  const attempt = useCallback(
    (next: T | ((before: T) => T)) => {
      turns.attempt();
      setDraft(next);
    },
    [turns],
  );
  const settle = useCallback((kept: Promise<unknown>) => void turns.settle(kept, () => setDraft(none.current)), [turns]);
  return [draft, attempt, settle] as const;
}
