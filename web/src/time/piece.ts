// Bars, beats and times of an arrangement, whose bars may have meters and tempos of their
// own.
import type { Schemas } from "../api/client";
import { noteTicks } from "../state/ticks";
import { firstAt } from "./axis";

export type Facts = Schemas["PieceFacts"];
export type Span = Schemas["PieceSpan"];

/** The bar of the piece that a tick lies in, counted from 0. */
export function barAt(facts: Facts, tick: number): number {
  const i = firstAt(facts.bars, (b) => b.tick, tick + 0.5) - 1;
  return Math.min(Math.max(i, 0), facts.bars.length - 2);
}

/** The span that a tick lies in; the last one behind the end. */
export function spanAt(facts: Facts, tick: number): Span | undefined {
  return facts.spans.find((s) => tick < s.to) ?? facts.spans.at(-1);
}

/** The time of a tick, s; straight between the beginnings of bars. */
export function timeAt(facts: Facts, tick: number): number {
  const i = barAt(facts, tick);
  const a = facts.bars[i];
  const b = facts.bars[i + 1];
  if (!a || !b) return 0;
  return a.seconds + ((b.seconds - a.seconds) * (tick - a.tick)) / (b.tick - a.tick);
}

/** A tick as bar.beat.sixteenth, counted from 1. */
export function placeText(facts: Facts | undefined, tick: number): string {
  if (!facts) return "1.1.1";
  const bar = barAt(facts, tick);
  const from = facts.bars[bar]?.tick ?? 0;
  const beat = noteTicks(spanAt(facts, tick)?.meter.unit ?? 4);
  const within = Math.max(tick - from, 0);
  return `${bar + 1}.${Math.floor(within / beat + 1e-6) + 1}.${Math.floor((within % beat) / 240 + 1e-6) + 1}`;
}
