import { type ComponentType, lazy } from "react";

import { Button } from "../ui/Button";

const RELOADED = "reloaded at";
/** A page is loaded again at most this often, ms. */
const REST_MS = 60_000;

/** A component whose code is loaded when it is first shown, or before by `preload`.
 *
 *  Code that is not there any more is of a version before an update: the page is loaded again. If that does not help,
 *  the component says what to do.
 */
export function loaded<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  const get = () =>
    load().then(
      (component) => ({ default: component }),
      () => {
        if (Date.now() - Number(sessionStorage.getItem(RELOADED) ?? 0) < REST_MS) return { default: Lost as ComponentType<Props> };
        sessionStorage.setItem(RELOADED, String(Date.now()));
        location.reload();
        return new Promise<never>(() => undefined);
      },
    );
  return Object.assign(lazy(get), { preload: () => void load().catch(() => undefined) });
}

function Lost() {
  return (
    <main role="alert" className="p-8">
      <p>This part of Perisect could not be loaded. Is the shop still running? Your work is saved.</p>
      <p className="pt-3"><Button onClick={() => location.reload()}>Load the page again</Button></p>
    </main>
  );
}

/** Calls `act` once the page is at rest. */
export function whenAtRest(act: () => void): () => void {
  const timer = setTimeout(act, 1500);
  return () => clearTimeout(timer);
}
