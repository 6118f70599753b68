// The stretch of the recording on show, in seconds and in pixels.
import type { Analysis } from "../../api/client";

export interface Timeline {
  from: number;
  to: number;
  x: (seconds: number) => number;
  seconds: (x: number) => number;
}

const pad = 8;

/** Seconds of a bar line, counted from 0; beyond the grid the nearest beat length goes on. */
export function barSeconds(a: Analysis, bar: number): number {
  const g = a.grid;
  if (!g) return bar * 2;
  const beat = g.downbeat + bar * g.beats_per_bar;
  const n = g.beats_s.length;
  const i = Math.min(Math.max(beat, 0), n - 2);
  const start = g.beats_s[i] ?? 0;
  return start + (beat - i) * ((g.beats_s[i + 1] ?? start + 0.5) - start);
}

export function timelineOf(a: Analysis, firstBar: number, bars: number, width: number): Timeline {
  const margin = (barSeconds(a, firstBar + bars) - barSeconds(a, firstBar)) * 0.012;
  const from = barSeconds(a, firstBar) - margin;
  const to = barSeconds(a, firstBar + bars) + margin;
  const inner = Math.max(width - 2 * pad, 10);
  return {
    from,
    to,
    x: (s) => pad + ((s - from) / (to - from)) * inner,
    seconds: (x) => from + ((x - pad) / inner) * (to - from),
  };
}
