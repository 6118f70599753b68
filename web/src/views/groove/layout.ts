// Where things stand on the groove's time axis, and what the reference's
// hits look like on it.

import { useMemo } from "react";
import type { Analysis, Document, Hit, Lane, Schemas, State } from "../../api/client";
import { maxStrokes } from "../../api/facts.gen";
import type { Dot } from "../../parts/OffsetPlot";
import { type GridLine, widest } from "../../parts/sticks";
import { barTicks, noteTicks, ppq } from "../../state/ticks";
import { axisOf, firstAt, type Limits, type Axis as TimeAxis, type View } from "../../time/axis";

export const labelWidth = 122;
export const rowHeight = 58;
const pad = 14;

/** The axis of a groove, in ticks. */
export interface Axis extends TimeAxis {
  total: number;
  stepTicks: number;
  barTicks: number;
  beatTicks: number;
  /** The tick of the nearest step to a pixel. */
  step: (x: number) => number;
  /** Pixels of a millisecond. */
  msPixels: number;
}

/** Ticks of a groove: its length or that of its longest lane, a bar, a beat, a step. */
function lengths(doc: Document) {
  const { bars, grid, meter, lanes } = doc.groove;
  const bar = barTicks(meter);
  const total = lanes.reduce((most, l) => Math.max(most, laneTicks(doc, l)), bars * bar);
  return { total, barTicks: bar, beatTicks: noteTicks(meter.unit), stepTicks: ppq / grid };
}

/** After how many ticks a lane repeats. */
export function laneTicks(doc: Document, lane: Lane | undefined): number {
  const { bars, grid, meter } = doc.groove;
  if (lane && lane.steps > 0) return (lane.steps * ppq) / (lane.grid ?? grid);
  return bars * barTicks(meter);
}

/** What of a groove can be on show: at least a beat. */
export function limitsOf(doc: Document): Limits {
  const { total, beatTicks } = lengths(doc);
  return { from: 0, to: total, least: Math.min(beatTicks, total) };
}

/** What a groove shows at first: all of four bars, or the first four of more. */
export function firstView(doc: Document): View {
  const { total, barTicks } = lengths(doc);
  return { from: 0, to: Math.min(total, 4 * barTicks) };
}

/** The axis of a groove, the same object as long as nothing of it changes. */
export function useAxis(doc: Document, view: View, width: number): Axis {
  const { grid, meter } = doc.groove;
  const { total } = lengths(doc);
  const bpm = doc.tempo[0]?.bpm ?? 120;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what grooveAxis reads of the document
  return useMemo(() => grooveAxis(doc, view, width), [total, grid, meter, bpm, view.from, view.to, width]);
}

export function grooveAxis(doc: Document, view: View, width: number): Axis {
  const all = lengths(doc);
  const axis = axisOf(view, width, pad);
  const bpm = doc.tempo[0]?.bpm ?? 120;
  const last = all.total / all.stepTicks - 1;
  return {
    ...axis,
    ...all,
    step: (x) => Math.min(Math.max(Math.round(axis.at(x) / all.stepTicks), 0), last) * all.stepTicks,
    msPixels: axis.per * ((bpm * ppq) / 60000),
  };
}

/** A hit of a row with where its head stands, in pixels. */
export interface Placed {
  hit: Hit;
  offset: number;
  x: number;
}

/** The hits of a row that can be seen, in order of their ticks. Leans reach a little beyond the edges. */
export function placed(hits: Hit[], falls: Schemas["Fall"][], axis: Axis, scale: number): Placed[] {
  const beyond = 60 / axis.per; // pixels
  const out: Placed[] = [];
  for (let i = firstAt(hits, (h) => h.tick, axis.from - beyond); i < hits.length; i++) {
    const hit = hits[i];
    if (!hit || hit.tick > axis.to + beyond) break;
    const offset = falls[i]?.offset_ms ?? 0;
    out.push({ hit, offset, x: axis.x(hit.tick) + offset * axis.msPixels * scale });
  }
  return out;
}

/** Bars, beats and steps on show; of a wide view only the coarser. */
export function gridLines(axis: Axis, stepTicks = axis.stepTicks): GridLine[] {
  const wide = (ticks: number) => ticks * axis.per >= 7;
  const every = wide(stepTicks) ? stepTicks : wide(axis.beatTicks) ? axis.beatTicks : axis.barTicks;
  const out: GridLine[] = [];
  for (let t = Math.ceil(axis.from / every) * every; t <= axis.to + 1e-6; t += every)
    out.push({ x: axis.x(t), rank: t % axis.barTicks === 0 ? 0 : t % axis.beatTicks === 0 ? 1 : 2 });
  return out;
}

/** A stroke of a flam or a roll: ticks after its hit's place, ms before it, and velocity. */
export interface Stroke {
  ticks: number;
  early: number;
  velocity: number;
}

/**
 * The strokes of a hit as they are drawn; the core's own are what sounds (core/groove,
 * Hit.Opened). A plain hit has one.
 */
export function strokesOf(h: Hit): Stroke[] {
  const out: Stroke[] = [];
  const flam = h.flam?.strokes ?? 0;
  for (let k = flam; k > 0; k--)
    out.push({
      ticks: 0,
      early: k * (h.flam?.spacing_ms ?? 0),
      velocity: h.velocity * 10 ** ((h.flam?.level_db ?? 0) / 40),
    });
  const length = h.length_ticks || ppq;
  const rolls = isRoll(h);
  const n = rolls
    ? Math.min(
        Math.max(h.roll?.per_beat ? Math.round((h.roll.per_beat * length) / ppq) : (h.roll?.strokes ?? 1), 1),
        maxStrokes,
      )
    : 1;
  const spacing = h.roll?.spacing_percent ?? 0;
  const q = spacing > 0 && n > 1 ? (spacing / 100) ** (1 / (n - 1)) : 1;
  const last = h.roll?.velocity_to || h.velocity;
  for (let k = 0; k < n; k++) {
    const part = Math.abs(q - 1) > 1e-9 ? (1 - q ** k) / (1 - q ** n) : k / n;
    out.push({
      ticks: k > 0 ? Math.round(part * length) : 0,
      early: 0,
      velocity: h.velocity + (n > 1 ? ((last - h.velocity) * k) / (n - 1) : 0),
    });
  }
  return out;
}

export const isRoll = (h: Hit) => (h.roll?.strokes ?? 0) > 1 || (h.roll?.per_beat ?? 0) > 0;

/** Dropped without being lost: it plays on no pass. */
export const isDropped = (h: Hit) => (h.of ?? 0) > 0 && (h.times ?? 0) === 0;

export interface Shadow {
  tick: number;
  offset_ms: number;
  velocity: number;
}

/**
 * The reference's hits of a family over as many bars as the groove has,
 * from its bar one on.
 */
export function useShadows(analysis: Analysis | undefined, doc: Document | undefined): Map<string, Shadow[]> {
  const bars = doc?.groove.bars;
  const meter = doc?.groove.meter;
  return useMemo(() => {
    const out = new Map<string, Shadow[]>();
    if (!analysis || !bars || !meter) return out;
    for (const h of analysis.hits) {
      if (h.bar === null || h.step === null || h.offset_ms === null) continue;
      if (h.bar < 0 || h.bar >= bars) continue;
      const tick = h.bar * barTicks(meter) + h.step * stepTicks(analysis) + h.within_ticks;
      const list = out.get(h.family) ?? [];
      list.push({ tick, offset_ms: h.offset_ms, velocity: h.velocity });
      out.set(h.family, list);
    }
    for (const list of out.values()) list.sort((a, b) => a.tick - b.tick);
    return out;
  }, [analysis, bars, meter]);
}

/** The sixteenths of a bar of the groove. */
export const barSteps = (doc: Document) => (doc.groove.meter.beats * 16) / doc.groove.meter.unit;

/** Ticks of a step of the reference's grid. */
const stepTicks = (a: Analysis) => noteTicks(a.beat_unit) / a.steps_per_beat;

/** My hits as dots for the plot by step. Those of a lane that did not change are the same objects. */
export function myDots(state: State): Dot[] {
  const { groove, kit } = state.document;
  const steps = barSteps(state.document);
  return groove.lanes.flatMap((lane, i) => {
    const family = kit.voices.find((v) => v.id === lane.voice)?.family;
    return family ? laneDots(lane, state.falls[i] ?? [], family, steps) : [];
  });
}

/** What was worked out of the falls of a lane; falls that change are other objects. */
const dotsOf = new WeakMap<Schemas["Fall"][], { hits: Hit[]; family: string; steps: number; dots: Dot[] }>();

function laneDots({ voice, hits }: Lane, falls: Schemas["Fall"][], family: string, steps: number): Dot[] {
  const kept = dotsOf.get(falls);
  if (kept && kept.hits === hits && kept.family === family && kept.steps === steps) return kept.dots;
  const dots = hits.map((hit, j) => ({
    key: `${voice} ${hit.id}`,
    step: (hit.tick / 240) % steps,
    offset: falls[j]?.offset_ms ?? 0,
    family,
  }));
  dotsOf.set(falls, { hits, family, steps, dots });
  return dots;
}

const widestOf = new WeakMap<Schemas["Fall"][], number>();

/** The largest offset of a groove, ms. */
export function widestFall(lanes: Schemas["Fall"][][]): number {
  let most = 0;
  for (const falls of lanes) {
    const known = widestOf.get(falls) ?? widest(falls);
    widestOf.set(falls, known);
    most = Math.max(most, known);
  }
  return most;
}

export const sameDots = (a: Dot[], b: Dot[]) =>
  a.length === b.length &&
  a.every((d, i) => {
    const e = b[i];
    return (
      d === e || (e && d.key === e.key && d.step === e.step && d.offset === e.offset && d.family === e.family)
    );
  });

/** The reference's hits as dots for the plot by step. */
export function heardDots(analysis: Analysis | undefined): Dot[] {
  if (!analysis) return [];
  return analysis.hits.flatMap((h) =>
    h.step !== null && h.offset_ms !== null && h.within_ticks === 0 && !h.grace
      ? [{ key: h.id, step: (h.step * stepTicks(analysis)) / 240, offset: h.offset_ms, family: h.family }]
      : [],
  );
}

/** What of a row is not as in another variation: hits only here, and ticks of those only there. */
export interface Differs {
  here: Set<string>;
  there: number[];
}

const same = (a: Hit, b: Hit) => JSON.stringify({ ...a, id: "" }) === JSON.stringify({ ...b, id: "" });

/** How each row differs from the first of the other variations; nothing where there is none. */
export function differences(doc: Document): Map<string, Differs> {
  const out = new Map<string, Differs>();
  const other = doc.variations.find((v) => v.groove && !v.here)?.groove;
  if (!other) return out;
  for (const lane of doc.groove.lanes) {
    const theirs = other.lanes.find((l) => l.voice === lane.voice)?.hits ?? [];
    const here = new Set(
      lane.hits.filter((h) => !theirs.some((o) => o.tick === h.tick && same(o, h))).map((h) => h.id),
    );
    const there = theirs.filter((o) => !lane.hits.some((h) => h.tick === o.tick)).map((o) => o.tick);
    if (here.size > 0 || there.length > 0) out.set(lane.voice, { here, there });
  }
  return out;
}

// always the same, so that a row without is not drawn again

/** Steps per quarter note as a note value; T are triplets, Q quintuplets. */
export const gridName = (n: number) =>
  n % 3 === 0 ? `1/${(n * 8) / 3} T` : n % 5 === 0 ? `1/${(n * 16) / 5} Q` : `1/${n * 4}`;
