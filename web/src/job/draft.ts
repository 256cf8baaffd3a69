/**
 * Who may put a draft away. When what was kept has arrived its draft goes, unless somebody has moved on meanwhile:
 * quick keys on a slider must each go on from the last one, not from the last one kept.
 */
export class DraftTurns {
  private turn = 0;

  /** Another value is being tried. */
  attempt() {
    this.turn += 1;
  }

  /** Call `putAway` once this was kept, unless there was another attempt or keeping since. */
  async settle(kept: Promise<unknown>, putAway: () => void) {
    const mine = (this.turn += 1);
    await kept;
    if (mine === this.turn) putAway();
  }
}
