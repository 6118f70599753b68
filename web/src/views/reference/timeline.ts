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

/** The first bar that can be on show: -1 where hits come before bar one, as a pickup does. */
export function earliestBar(a: Analysis): number {
  const one = barSeconds(a, 0);
  return a.grid && a.hits.some((h) => h.time_s < one - 0.05) ? -1 : 0;
}

/** Where a beat of the grid lies: bar and beat of the bar from 1; bar 0 is the pickup. */
export function barAndBeat(a: Analysis, beat: number): { bar: number; beat: number } {
  const perBar = a.grid?.beats_per_bar ?? 4;
  const from = beat - (a.grid?.downbeat ?? 0);
  const bar = Math.floor(from / perBar);
  return { bar: bar + 1, beat: from - bar * perBar + 1 };
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
