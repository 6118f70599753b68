// A stretch of time on show: from where to where, and where that is in pixels.
// Times are in a unit of the view's own: ticks of a groove, seconds of a
// recording.

export interface View {
  from: number;
  to: number;
}

/** What there is to be seen, and the least of it that is shown. */
export interface Limits extends View {
  least: number;
}

export interface Axis extends View {
  width: number;
  /** Pixels of a moment, fractions included. */
  x: (time: number) => number;
  /** The moment of a pixel. */
  at: (x: number) => number;
  /** Pixels of a unit of time. */
  per: number;
}

/** The axis of a view on so many pixels, of which pad at each end are left free. */
export function axisOf(view: View, width: number, pad: number): Axis {
  const inner = Math.max(width - 2 * pad, 10);
  const per = inner / (view.to - view.from);
  return {
    ...view,
    width,
    per,
    x: (time) => pad + (time - view.from) * per,
    at: (x) => view.from + (x - pad) / per,
  };
}

/** A view that keeps within its limits: not wider than all, not narrower than the least. */
export function held(view: View, l: Limits): View {
  const span = Math.min(Math.max(view.to - view.from, Math.min(l.least, l.to - l.from)), l.to - l.from);
  const from = Math.min(Math.max(view.from, l.from), l.to - span);
  return { from, to: from + span };
}

/** Zoomed by a factor, above 1 for more detail; the moment around stays where it is. */
export function zoomed(view: View, by: number, around: number, l: Limits): View {
  const span = Math.min(
    Math.max((view.to - view.from) / by, Math.min(l.least, l.to - l.from)),
    l.to - l.from,
  );
  const part = (around - view.from) / (view.to - view.from);
  const from = around - part * span;
  return held({ from, to: from + span }, l);
}

/** Moved by some time. */
export const scrolled = (view: View, by: number, l: Limits): View =>
  held({ from: view.from + by, to: view.to + by }, l);

/** Where a view goes to keep a moment that moves on in sight; the same view while it is. */
export function following(view: View, time: number, l: Limits): View {
  const span = view.to - view.from;
  if (time >= view.from && time < view.to - span * 0.06) return view;
  return held({ from: time - span * 0.06, to: time + span * 0.94 }, l);
}

/** Where a view goes to show a moment that a key moved to; the same view where it does. */
export function sighted(view: View, time: number, l: Limits): View {
  if (time >= view.to) return following(view, time, l);
  if (time >= view.from) return view;
  const span = view.to - view.from;
  return held({ from: time - span * 0.94, to: time + span * 0.06 }, l);
}

/** The first of sorted times that is at least a time; binary search. */
export function firstAt<T>(list: readonly T[], timeOf: (item: T) => number, time: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (timeOf(list[middle] as T) < time) low = middle + 1;
    else high = middle;
  }
  return low;
}
