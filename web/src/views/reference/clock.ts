// The click's clock: when, on the page's clock, the sound of a moment is heard.
import type { Family } from "../../api/client";

/** Reports of how far the click has come, and what they say of its beginning. */
export class ClickClock {
  private starts: number[] = [];

  constructor(
    /** Length of the click's loop, seconds. */
    readonly seconds: number,
    /** From the worklet to the ear, ms. */
    readonly output: number,
  ) {}

  /** A report: the part of the way, 0 to 1, at a moment of the page's clock. */
  hear(part: number, at: number) {
    this.starts.push(at - part * this.seconds * 1000);
    if (this.starts.length > 400) this.starts.shift();
  }

  /** When the first click was heard; null before the first report. */
  start(): number | null {
    if (this.starts.length === 0) return null;
    const sorted = [...this.starts].sort((a, b) => a - b);
    return (sorted[Math.floor(sorted.length / 2)] ?? 0) + this.output;
  }
}

export interface Tapped {
  /** Seconds from bar one, after the count-in. */
  time_s: number;
  family: Family;
  velocity: number;
}

/** Offsets in ms from the nearest step; its median is how late everything is. */
export function medianOffset(hits: Tapped[], tempo: number, steps = 4): number {
  const step = 60 / tempo / steps;
  const off = hits.map((h) => (h.time_s - Math.round(h.time_s / step) * step) * 1000).sort((a, b) => a - b);
  return off[Math.floor(off.length / 2)] ?? 0;
}
