import { useEffect, useRef } from "react";

type Taker = (files: File[]) => void;

/** Who takes files that are dropped: the page shown last, else whoever is shown next. */
export class FileDrops {
  private takers: Taker[] = [];
  private waiting: { files: File[]; job?: number }[] = [];

  /** Give files to whoever takes them now, or keep them for the next. */
  hand(files: File[]) {
    const taker = this.takers.at(-1);
    if (taker) taker(files);
    else this.keepFor(files);
  }

  /** Keep files for a page that is about to open: that of a job, or whichever is next. Two jobs that are begun at once
   *  open one after the other. */
  keepFor(files: File[], job?: number) {
    this.waiting = [...this.waiting, { files, job }];
  }

  /** Take every file from now on, and those that waited for this page; returns how to stop. */
  take(taker: Taker, job?: number): () => void {
    this.takers = [...this.takers, taker];
    const mine = this.waiting.filter((each) => each.job === undefined || each.job === job);
    this.waiting = this.waiting.filter((each) => !mine.includes(each));
    const files = mine.flatMap((each) => each.files);
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
export const keepFor = (files: File[], job: number) => drops.keepFor(files, job);

/** Take every file that is dropped for as long as this is shown, and those that waited for it or for its job. */
export function useFileDrop(take: Taker, job?: number) {
  const now = useRef(take);
  useEffect(() => {
    now.current = take;
  });
  useEffect(() => drops.take((files) => now.current(files), job), [job]);
}
