// The click's clock: when, on the page's clock, the sound of a moment is heard.
import type { Family } from "../../api/client";

/** How far to both sides of a moment reports count that say where the click is there, ms. */
const around = 600;

/**
 * Reports of how far the click has come, and what they say of its beginning. A click whose
 * sound stumbles is late from there on; strokes are counted from where it was when they fell.
 */
export class ClickClock {
  private reports: { at: number; start: number }[] = [];

  constructor(
    /** Length of the click's loop, seconds. */
    readonly seconds: number,
    /** From the worklet to the ear, ms. */
    readonly output: number,
  ) {}

  /** A report: the part of the way, 0 to 1, at a moment of the page's clock. */
  hear(part: number, at: number) {
    this.reports.push({ at, start: at - part * this.seconds * 1000 });
  }

  /**
   * When the first click was heard, as the reports around a moment have it; of the newest
   * without one. The median: reports come late now and then, never early. Null before the first.
   */
  start(moment = Number.POSITIVE_INFINITY): number | null {
    const newest = this.reports.at(-1);
    if (!newest) return null;
    const middle = Math.min(moment, newest.at);
    const near: number[] = [];
    for (let i = this.reports.length - 1; i >= 0; i--) {
      const r = this.reports[i] as { at: number; start: number };
      if (r.at < middle - around && near.length > 0) break;
      if (r.at <= middle + around || i === 0) near.push(r.start);
    }
    near.sort((a, b) => a - b);
    return (near[Math.floor(near.length / 2)] ?? 0) + this.output;
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
