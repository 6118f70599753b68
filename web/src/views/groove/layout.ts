// Where things stand on the groove's time axis, and what the reference's
// hits look like on it.

import { useMemo } from "react";
import type { Analysis, Document, State } from "../../api/client";
import type { Dot } from "../../parts/OffsetPlot";

export const labelWidth = 122;
export const rowHeight = 58;
const pad = 14;

export interface Axis {
  total: number; // ticks
  stepTicks: number;
  barTicks: number;
  beatTicks: number;
  /** Pixels of a tick, fractions included. */
  x: (tick: number) => number;
  /** The tick of the nearest step to a pixel. */
  step: (x: number) => number;
  /** Pixels of a millisecond. */
  msPixels: number;
  width: number;
}

/** The axis of a groove, the same object as long as nothing of it changes. */
export function useAxis(doc: Document, width: number): Axis {
  const { bars, grid, meter } = doc.groove;
  const bpm = doc.tempo[0]?.bpm ?? 120;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what axisOf reads of the document
  return useMemo(() => axisOf(doc, width), [bars, grid, meter, bpm, width]);
}

export function axisOf(doc: Document, width: number): Axis {
  const m = doc.groove.meter;
  const barTicks = (m.beats * 3840) / m.unit;
  const total = doc.groove.bars * barTicks;
  const stepTicks = 960 / doc.groove.grid;
  const inner = Math.max(width - 2 * pad, 10);
  const bpm = doc.tempo[0]?.bpm ?? 120;
  return {
    total,
    stepTicks,
    barTicks,
    beatTicks: 3840 / m.unit,
    x: (tick) => pad + (tick / total) * inner,
    step: (x) =>
      Math.min(Math.max(Math.round((((x - pad) / inner) * total) / stepTicks), 0), total / stepTicks - 1) *
      stepTicks,
    msPixels: (inner / total) * ((bpm * 960) / 60000),
    width,
  };
}

export interface Shadow {
  tick: number;
  offset: number;
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
      const tick =
        h.bar * ((meter.beats * 3840) / meter.unit) + h.step * stepTicks(analysis) + h.within_ticks;
      const list = out.get(h.family) ?? [];
      list.push({ tick, offset: h.offset_ms, velocity: h.velocity });
      out.set(h.family, list);
    }
    return out;
  }, [analysis, bars, meter]);
}

/** The sixteenths of a bar of the groove. */
export const barSteps = (doc: Document) => (doc.groove.meter.beats * 16) / doc.groove.meter.unit;

/** Ticks of a step of the reference's grid. */
const stepTicks = (a: Analysis) => 3840 / a.beat_unit / a.steps_per_beat;

/** My hits as dots for the plot by step. */
export function myDots(state: State): Dot[] {
  const { groove, kit } = state.document;
  return groove.lanes.flatMap((lane, i) => {
    const voice = kit.voices.find((v) => v.id === lane.voice);
    if (!voice) return [];
    return lane.hits.map((hit, j) => ({
      key: `${lane.voice} ${hit.id}`,
      step: (hit.tick / 240) % barSteps(state.document),
      offset: state.falls[i]?.[j]?.offset_ms ?? 0,
      family: voice.family,
    }));
  });
}

export const sameDots = (a: Dot[], b: Dot[]) =>
  a.length === b.length &&
  a.every((d, i) => {
    const e = b[i];
    return e && d.key === e.key && d.step === e.step && d.offset === e.offset && d.family === e.family;
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
