// The stretch of the recording on show, in seconds and in pixels.
import type { Analysis } from "../../api/client";
import { type Axis, axisOf, type Limits, type View } from "../../time/axis";

export const pad = 8;

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

/** Some bars with a little beside them. */
export function viewOfBars(a: Analysis, firstBar: number, bars: number): View {
  const margin = (barSeconds(a, firstBar + bars) - barSeconds(a, firstBar)) * 0.012;
  return { from: barSeconds(a, firstBar) - margin, to: barSeconds(a, firstBar + bars) + margin };
}

/** Which bars a view shows: the first that begins in it, and how many are as long. */
export function barsOf(a: Analysis, view: View): { first: number; bars: number } {
  const last = Math.max(a.bars, 1);
  let first = earliestBar(a);
  const slack = (view.to - view.from) * 0.02;
  while (first < last - 1 && barSeconds(a, first) < view.from - slack) first++;
  const bar = barSeconds(a, first + 1) - barSeconds(a, first);
  return { first, bars: Math.max(Math.round((view.to - view.from) / bar), 1) };
}

/** What of a recording can be on show: all bars and the whole file, at least half a second. */
export function limitsOf(a: Analysis): Limits {
  const all = viewOfBars(a, earliestBar(a), Math.max(a.bars, 1) - earliestBar(a));
  return { from: Math.min(all.from, 0), to: Math.max(all.to, a.duration_s), least: 0.5 };
}

/** The axis of a stretch of the recording, in seconds. */
export const timelineOf = (view: View, width: number): Axis => axisOf(view, width, pad);
