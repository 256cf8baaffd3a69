import { useEffect, useRef } from "react";

type Taker = (files: File[]) => void;

let takers: Taker[] = [];
/** Files that were dropped while nobody could take them: they wait for whoever can next. */
let waiting: File[] = [];

const filesOf = (event: DragEvent) => (event.dataTransfer?.types.includes("Files") ? [...event.dataTransfer.files] : null);

/** From now on a file dropped anywhere stays in the application; the browser never leaves it to show the file. */
export function catchDrops() {
  window.addEventListener("dragover", (event) => event.dataTransfer?.types.includes("Files") && event.preventDefault());
  window.addEventListener("drop", (event) => {
    const files = filesOf(event);
    if (!files) return;
    event.preventDefault();
    hand(files);
  });
}

/** Give files to whoever takes them now, or keep them for the next. */
export function hand(files: File[]) {
  const taker = takers.at(-1);
  if (taker) taker(files);
  else waiting = [...waiting, ...files];
}

/** Keep files for a page that is about to open. */
export function keepFor(files: File[]) {
  waiting = [...waiting, ...files];
}

/** Take every file that is dropped for as long as this is shown, and those that waited for it. */
export function useFileDrop(take: Taker) {
  const now = useRef(take);
  useEffect(() => {
    now.current = take;
  });
  useEffect(() => {
    const mine: Taker = (files) => now.current(files);
    takers = [...takers, mine];
    if (waiting.length) {
      const files = waiting;
      waiting = [];
      mine(files);
    }
    return () => {
      takers = takers.filter((each) => each !== mine);
    };
  }, []);
}
