import { useSyncExternalStore } from "react";

let times = 0;
const listeners = new Set<() => void>();

/** What was typed is not kept: fields show again what holds. */
export function refuse() {
  times += 1;
  for (const hear of listeners) hear();
}

const subscribe = (hear: () => void) => {
  listeners.add(hear);
  return () => listeners.delete(hear);
};

/** How often something was refused. */
export const useRefusals = () => useSyncExternalStore(subscribe, () => times);
