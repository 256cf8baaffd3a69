import { type ComponentType, lazy } from "react";

const AGAIN = "loaded again";

/** A component whose code is loaded when it is first shown, or before by `preload`.
 *
 *  Code that is not there any more is of a version before an update: the page is loaded again, once.
 */
export function loaded<Props>(load: () => Promise<ComponentType<Props>>) {
  const get = () =>
    load().then(
      (component) => {
        sessionStorage.removeItem(AGAIN);
        return { default: component };
      },
      (error: unknown) => {
        if (sessionStorage.getItem(AGAIN)) throw error;
        sessionStorage.setItem(AGAIN, "1");
        location.reload();
        return new Promise<never>(() => undefined);
      },
    );
  return Object.assign(lazy(get), { preload: () => void load().catch(() => undefined) });
}

/** Calls what is to be loaded ahead once the page is at rest. */
export function whenAtRest(act: () => void): () => void {
  const timer = setTimeout(act, 1500);
  return () => clearTimeout(timer);
}
