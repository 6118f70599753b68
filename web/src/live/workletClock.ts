/**
 * When reports of the worklet were made, on the page's clock. They carry the computer's time;
 * the shortest way from there to the page gives the difference of the two, so that a page
 * that is busy does not make them late.
 */
export class WorkletClock {
  private offset = Number.POSITIVE_INFINITY;

  /** The page's time of a report that was made at a time and came now, ms. */
  at(time: number, now: number): number {
    const apart = now - time;
    // Clocks drift, and the computer's may be set.
    if (apart < this.offset || apart > this.offset + 5000) this.offset = apart;
    else this.offset += 0.002;
    return time + this.offset;
  }
}
