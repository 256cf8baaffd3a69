import { useEffect, useRef } from "react";

type Taker = (files: File[]) => void;

/** Who takes files that are dropped: the page shown last, else whoever is shown next. */
export class FileDrops {
  private takers: Taker[] = [];
  private waiting: File[] = [];

  /** Give files to whoever takes them now, or keep them for the next. */
  hand(files: File[]) {
    const taker = this.takers.at(-1);
    if (taker) taker(files);
    else this.keepFor(files);
  }

  /** Keep files for a page that is about to open. */
  keepFor(files: File[]) {
    this.waiting = [...this.waiting, ...files];
  }

  /** Take every file from now on, and those that waited; returns how to stop. */
  take(taker: Taker): () => void {
    this.takers = [...this.takers, taker];
    const files = this.waiting;
    this.waiting = [];
    if (files.length) taker(files);
    return () => {
      this.takers = this.takers.filter((each) => each !== taker);
    };
  }
}

const drops = new FileDrops();

/** From now on a file dropped anywhere stays in the application; the browser never leaves it to show the file. */
export function catchDrops() {
  window.addEventListener("dragover", (event) => event.dataTransfer?.types.includes("Files") && event.preventDefault());
  window.addEventListener("drop", (event) => {
    if (!event.dataTransfer?.types.includes("Files")) return;
    event.preventDefault();
    drops.hand([...event.dataTransfer.files]);
  });
}

export const hand = (files: File[]) => drops.hand(files);
export const keepFor = (files: File[]) => drops.keepFor(files);

/** Take every file that is dropped for as long as this is shown, and those that waited for it. */
export function useFileDrop(take: Taker) {
  const now = useRef(take);
  useEffect(() => {
    now.current = take;
  });
  useEffect(() => drops.take((files) => now.current(files)), []);
}
