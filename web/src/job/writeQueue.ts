/** Writes one after the other, each from what the one before it left. A write that fails holds up none behind it. */
export class WriteQueue {
  private last: Promise<unknown> = Promise.resolve();

  add<T>(write: () => Promise<T>): Promise<T> {
    const turn = this.last.then(write, write);
    this.last = turn.catch(() => undefined);
    return turn;
  }
}
