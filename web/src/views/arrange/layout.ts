// Where things of an arrangement lie: sections, bars, what rows play.
import type { Document, Schemas } from "../../api/client";
import { barTicks, noteTicks } from "../../state/ticks";
import { barAt, type Facts, type Span, spanAt } from "../../time/piece";
import type { Snap } from "./store";

export type Section = Schemas["Section"];

/** A section with where it lies. */
export interface Laid {
  section: Section;
  span: Span;
}

/** The sections in order; those whose place is not known yet are left out. */
export function laid(doc: Document, facts: Facts | undefined): Laid[] {
  if (!facts) return [];
  const spans = new Map(facts.spans.map((s) => [s.section, s]));
  return doc.arrangement.sections.flatMap((section) => {
    const span = spans.get(section.id);
    return span ? [{ section, span }] : [];
  });
}

export const endOf = (facts: Facts | undefined) => facts?.bars.at(-1)?.tick ?? 4 * 3840;

/** The places on either side of a tick that what is painted keeps to. */
export function snapped(facts: Facts, tick: number, snap: Snap): { from: number; to: number } {
  const bar = barAt(facts, tick);
  const from = facts.bars[bar]?.tick ?? 0;
  const to = facts.bars[bar + 1]?.tick ?? from + 3840;
  if (snap === "bar") return { from, to };
  const step = snap === "beat" ? noteTicks(spanAt(facts, tick)?.meter.unit ?? 4) : 240;
  const at = from + Math.floor(Math.max(tick - from, 0) / step) * step;
  return { from: at, to: Math.min(at + step, to) };
}

/** The nearest place that what is placed keeps to. */
export function nearest(facts: Facts, tick: number, snap: Snap): number {
  const s = snapped(facts, Math.max(tick, 0), snap);
  return tick - s.from < s.to - tick ? s.from : s.to;
}

export interface Stretch {
  from: number;
  to: number;
}

/** The stretches of a section in which a row plays, ticks of the piece. */
export function plays(of: Laid, voice: string): Stretch[] {
  const { section, span } = of;
  const out: Stretch[] = [];
  let at = 0;
  const length = span.to - span.from;
  for (const r of section.rests.filter((r) => r.voice === voice).sort((a, b) => a.from - b.from)) {
    if (r.from > at) out.push({ from: span.from + at, to: span.from + r.from });
    at = Math.max(at, r.to);
  }
  if (at < length) out.push({ from: span.from + at, to: span.to });
  return out;
}

/** Whether a row plays at a tick. */
export function playsAt(list: Laid[], voice: string, tick: number): boolean {
  const of = list.find((l) => tick >= l.span.from && tick < l.span.to);
  if (!of) return false;
  const at = tick - of.span.from;
  return !of.section.rests.some((r) => r.voice === voice && at >= r.from && at < r.to);
}

/** The groove of a variation, also of the one in hand. */
export const grooveOf = (doc: Document, variation: string) =>
  variation === doc.variation ? doc.groove : doc.variations.find((v) => v.id === variation)?.groove;

/** What a variation is called: its letter, and its name. */
export function variationName(doc: Document, id: string): string {
  const v = doc.variations.find((v) => v.id === id);
  if (v?.here) return v.name;
  return v?.name ? `${id.toUpperCase()}, ${v.name}` : id.toUpperCase();
}

/** Whether a row has any hits in a variation. */
export const hasHits = (doc: Document, variation: string, voice: string) =>
  (grooveOf(doc, variation)?.lanes.find((l) => l.voice === voice)?.hits.length ?? 0) > 0;

/** A number that is drawn: its address, what it is, and its lanes by section. */
export interface Lane {
  at: string;
  /** The voice, bus or "out" that it belongs to; empty is the whole. */
  row: string;
  number: Schemas["DrawableNumber"] | undefined;
}

/** The lanes that are shown: what is drawn anywhere, and those that were opened. */
export function lanesOf(doc: Document, facts: Facts | undefined, open: string[]): Lane[] {
  const all = new Set<string>();
  for (const s of doc.arrangement.sections) for (const m of s.automation) all.add(m.at);
  for (const m of doc.mix.automation) all.add(m.at);
  for (const at of open) all.add(at);
  return [...all].map((at) => ({
    at,
    row: /^(tempo|groove)\//.test(at) ? "" : (at.split("/")[0] ?? ""),
    number: facts?.drawn.find((d) => d.at === at),
  }));
}

/** The names that sections often have, with the next that is free. */
export const starts = ["Intro", "Verse", "Hook", "Break", "Drop", "Outro"];

export function nextName(doc: Document): string {
  const used = doc.arrangement.sections.map((s) => s.name);
  return starts.find((s) => !used.includes(s)) ?? `Section ${doc.arrangement.sections.length + 1}`;
}

export const sectionBar = (span: Span) => barTicks(span.meter);
