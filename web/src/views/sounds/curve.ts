// Points and bends of a curve as handles of a chart, and what dragging them makes
// of the curve. What the line looks like in between is the core's.
import { bendiness } from "../../api/facts.gen";
import { clamp } from "../../parts/format";
import type { Handle } from "./Chart";
import type { Curve } from "./parts";

/** How far along its way a bent segment is half-way through its time. */
export const middle = (bend: number): number => 1 / (1 + Math.exp((-bendiness * bend) / 2));

/** The bend that brings a way so far half-way through its time. */
export const bendFor = (way: number): number =>
  clamp((-2 * Math.log(1 / clamp(way, 0.001, 0.999) - 1)) / bendiness, -1, 1);

/** A chart's axes: times in the curve's unit, values from 0 to 1. */
export interface Axes {
  x: (at: number) => number;
  at: (x: number) => number;
  y: (value: number) => number;
  value: (y: number) => number;
}

const least = 0.001;

/** The curve with point i at another place, between its neighbours. */
export function movePoint(c: Curve, i: number, at: number, value: number): Curve {
  const points = c.points.map((p) => ({ ...p }));
  const p = points[i];
  if (!p) return c;
  const low = i === 0 ? 0 : (points[i - 1]?.at ?? 0) + least;
  const high = i === points.length - 1 ? Number.POSITIVE_INFINITY : (points[i + 1]?.at ?? 0) - least;
  p.at = i === 0 && (points[0]?.at ?? 0) === 0 && at < 2 * least ? 0 : clamp(at, low, Math.max(high, low));
  p.value = clamp(value, 0, 1);
  return { ...c, points, lasts: c.round >= 0 ? Math.max(c.lasts, points.at(-1)?.at ?? 0) : c.lasts };
}

/** The curve with one more point; none where one is already. */
export function addPoint(c: Curve, at: number, value: number): Curve {
  const time = Math.max(at, 0);
  if (c.points.some((p) => Math.abs(p.at - time) < least)) return c;
  const i = c.points.findIndex((p) => p.at > time);
  const place = i < 0 ? c.points.length : i;
  const points = [...c.points];
  points.splice(place, 0, { at: time, value: clamp(value, 0, 1), bend: 0, smooth: false });
  return { ...c, points, round: c.round >= place ? c.round + 1 : c.round };
}

export function removePoint(c: Curve, i: number): Curve {
  if (c.points.length <= 2) return c;
  const points = c.points.filter((_, k) => k !== i);
  return { ...c, points, round: Math.min(c.round > i ? c.round - 1 : c.round, points.length - 2) };
}

export const turn = (c: Curve, i: number): Curve => ({
  ...c,
  points: c.points.map((p, k) => (k === i ? { ...p, smooth: !p.smooth } : p)),
});

const bent = (c: Curve, i: number, bend: number): Curve => ({
  ...c,
  points: c.points.map((p, k) => (k === i ? { ...p, bend } : p)),
});

/** Handles for all points and ways of a curve. */
export function curveHandles(
  c: Curve,
  axes: Axes,
  colour: string,
  set: (c: Curve, gesture: string) => void,
): Handle[] {
  const handles: Handle[] = [];
  for (let i = 0; i + 1 < c.points.length; i++) {
    const [a, b] = [c.points[i], c.points[i + 1]];
    if (!a || !b || a.value === b.value || axes.x(b.at) - axes.x(a.at) < 14) continue;
    const at = a.smooth ? 0.5 : middle(a.bend);
    handles.push({
      id: `${c.id}-bend-${i}`,
      name: `Bend after point ${i + 1} of ${c.name}`,
      small: true,
      colour,
      x: axes.x((a.at + b.at) / 2),
      y: axes.y(a.value + (b.value - a.value) * at),
      onDrag: (_x, y, g) => {
        if (a.smooth) set(bent(c, i, clamp((axes.y(0.5) - y) / 60, -1, 1)), g);
        else set(bent(c, i, bendFor((axes.value(y) - a.value) / (b.value - a.value))), g);
      },
      onCancel: (g) => set(c, g),
      onTurn: () => set(turn(c, i), ""),
    });
  }
  c.points.forEach((p, i) => {
    handles.push({
      id: `${c.id}-point-${i}`,
      name: `Point ${i + 1} of ${c.name}`,
      colour,
      x: axes.x(p.at),
      y: axes.y(p.value),
      onDrag: (x, y, g) => set(movePoint(c, i, axes.at(x), axes.value(y)), g),
      onCancel: (g) => set(c, g),
      ...(c.points.length > 2 ? { onRemove: () => set(removePoint(c, i), "") } : {}),
    });
  });
  return handles;
}
