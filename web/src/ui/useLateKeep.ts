import { useCallback, useEffect, useRef } from "react";

const QUIET_MS = 300;
const STEPS = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "PageUp", "PageDown", "Home", "End"];

/**
 * What a slider is let go at. By pointer that is kept at once; by keys, of which many come in a row, when they have come
 * to rest, the slider is left, or another key is pressed: one step for all of them, and nothing to wait for in between.
 * What is not `tried` while it moves is kept at every step.
 */
export function useLateKeep(keep: (value: number) => void, tried: boolean) {
  const latest = useRef(keep);
  useEffect(() => {
    latest.current = keep;
  });
  const waiting = useRef<{ value: number; timer: number } | null>(null);
  const byPointer = useRef(false);
  const flush = useCallback(() => {
    if (!waiting.current) return;
    const { value, timer } = waiting.current;
    waiting.current = null;
    clearTimeout(timer);
    latest.current(value);
  }, []);
  useEffect(() => {
    const other = (event: KeyboardEvent) => !STEPS.includes(event.key) && event.key !== "Shift" && flush();
    window.addEventListener("keydown", other, true);
    return () => {
      window.removeEventListener("keydown", other, true);
      flush();
    };
  }, [flush]);
  return {
    onPointerDown: () => {
      byPointer.current = true;
    },
    onKeyDown: () => {
      byPointer.current = false;
    },
    onBlur: flush,
    onValueCommit: ([value]: number[]) => {
      if (value === undefined) return;
      if (waiting.current) clearTimeout(waiting.current.timer);
      waiting.current = { value, timer: window.setTimeout(flush, QUIET_MS) };
      if (byPointer.current || !tried) flush();
    },
  };
}
