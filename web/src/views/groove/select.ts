// What is selected by a rule rather than by hand: a box over rows, classes of
// steps, velocities.
import type { State } from "../../api/client";
import { barTicks, noteTicks } from "../../state/ticks";
import { type Axis, placed } from "./layout";

export interface Ref {
  voice: string;
  hit: string;
}

/** A rectangle over the rows, in pixels of the page. */
export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** The hits whose heads stand inside a box, on the rows that it touches. */
export function hitsInBox(state: State, axis: Axis, scale: number, box: Box): Ref[] {
  const out: Ref[] = [];
  for (const row of document.querySelectorAll<HTMLElement>("[data-lane]")) {
    const r = row.getBoundingClientRect();
    if (r.bottom < box.top || r.top > box.bottom) continue;
    const voice = row.dataset.lane ?? "";
    const i = state.document.groove.lanes.findIndex((l) => l.voice === voice);
    const hits = state.document.groove.lanes[i]?.hits ?? [];
    for (const p of placed(hits, state.falls[i] ?? [], axis, scale))
      if (p.x >= box.left - r.left && p.x <= box.right - r.left) out.push({ voice, hit: p.hit.id });
  }
  return out;
}

export type StepClass = "any" | "beats" | "offbeats" | "between";

/** A rule by which hits are selected. */
export interface Rule {
  /** One voice, or all where it is empty. */
  voice: string;
  steps: StepClass;
  from: number;
  to: number;
}

/** Whether a tick is of a class: on a beat, half-way between two, or anywhere else. */
export function isOfClass(tick: number, beatTicks: number, of: StepClass): boolean {
  const within = tick % beatTicks;
  if (of === "any") return true;
  if (of === "beats") return within === 0;
  if (of === "offbeats") return within === beatTicks / 2;
  return within !== 0 && within !== beatTicks / 2;
}

export function hitsByRule(state: State, r: Rule): Ref[] {
  const beatTicks = noteTicks(state.document.groove.meter.unit);
  return state.document.groove.lanes
    .filter((l) => r.voice === "" || l.voice === r.voice)
    .flatMap((l) =>
      l.hits
        .filter((h) => h.velocity >= r.from && h.velocity <= r.to && isOfClass(h.tick, beatTicks, r.steps))
        .map((h) => ({ voice: l.voice, hit: h.id })),
    );
}

/** The hits of a row that are like one: as loud within 8, on the same place of the bar or struck alike. */
export function hitsLike(state: State, voice: string, id: string): Ref[] {
  const { groove } = state.document;
  const hits = groove.lanes.find((l) => l.voice === voice)?.hits ?? [];
  const one = hits.find((h) => h.id === id);
  if (!one) return [];
  const bar = barTicks(groove.meter);
  const kind = (h: typeof one) =>
    `${h.sound ?? ""} ${h.roll ? "roll" : ""} ${h.flam ? "flam" : ""} ${h.semitones}`;
  return hits
    .filter(
      (h) =>
        kind(h) === kind(one) &&
        (h.tick % bar === one.tick % bar || Math.abs(h.velocity - one.velocity) <= 8),
    )
    .map((h) => ({ voice, hit: h.id }));
}

/** Of some hits those in every second bar, from the first of theirs on. */
export function everySecondBar(state: State, hits: Ref[], barTicks: number): Ref[] {
  const barOf = (r: Ref) => {
    const h = state.document.groove.lanes.find((l) => l.voice === r.voice)?.hits.find((x) => x.id === r.hit);
    return Math.floor((h?.tick ?? 0) / barTicks);
  };
  const first = Math.min(...hits.map(barOf));
  return hits.filter((r) => (barOf(r) - first) % 2 === 0);
}
