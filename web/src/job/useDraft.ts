import { useCallback, useEffect, useRef, useState } from "react";

/**
 * A value that is being tried. When what was kept has arrived it is put away, unless somebody has moved on
 * meanwhile: quick keys on a slider must each go on from the last one, not from the last one kept.
 */
export function useDraft<T>(nothing: T, owner: unknown) {
  const [draft, setDraft] = useState<T>(nothing);
  const turn = useRef(0);
  const none = useRef(nothing);
  useEffect(() => setDraft(none.current), [owner]);
  const attempt = useCallback((next: T | ((before: T) => T)) => {
    turn.current += 1;
    setDraft(next);
  }, []);
  const settle = useCallback((kept: Promise<unknown>) => {
    const mine = (turn.current += 1);
    void kept.then(() => mine === turn.current && setDraft(none.current));
  }, []);
  return [draft, attempt, settle] as const;
}
