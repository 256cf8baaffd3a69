import { useEffect, useRef } from "react";

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Keys that work anywhere but while typing; `Ctrl K` works always. Names are like "1", "ctrl+z", "ctrl+shift+z". */
export function useKeys(keys: Record<string, () => void>) {
  const now = useRef(keys);
  now.current = keys;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const ctrl = event.ctrlKey || event.metaKey;
      const name = `${ctrl ? "ctrl+" : ""}${event.shiftKey && ctrl ? "shift+" : ""}${event.key.toLowerCase()}`;
      const act = now.current[name];
      if (!act || event.altKey || (typing(event.target) && name !== "ctrl+k")) return;
      if (name !== "ctrl+k" && document.querySelector('[role="dialog"], [role="alertdialog"]')) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
