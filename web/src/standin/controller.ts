// Pad controllers: the simulated one that ships with the app, which plays back
// recorded takes with velocity, and real ones through Web MIDI where the
// browser has it. Both hand over strokes with the time at which they were made.
import type { Family } from "../api/client";
import recorded from "./takes.json";

export interface Stroke {
  family: Family;
  velocity: number;
  /** When it was struck, on the page's clock, ms. */
  at: number;
}

export interface RecordedTake {
  name: string;
  tempo_bpm: number;
  hits: { beat: number; offset_ms: number; family: Family; velocity: number }[];
}

export const takes: RecordedTake[] = recorded as RecordedTake[];

/** The times of a take's strokes in ms from bar one, in order. */
export function times(take: RecordedTake, tempo: number) {
  return take.hits
    .map((h) => ({ ...h, ms: (h.beat * 60000) / tempo + h.offset_ms }))
    .sort((a, b) => a.ms - b.ms);
}

/**
 * Plays a take from a moment of the page's clock on; strokes carry the time at
 * which the recorded drummer made them. Returns how to stop it.
 */
export function playBack(take: RecordedTake, tempo: number, from: number, strike: (s: Stroke) => void) {
  const timers = times(take, tempo).map((h) =>
    setTimeout(
      () => strike({ family: h.family, velocity: h.velocity, at: from + h.ms }),
      Math.max(from + h.ms - performance.now(), 0),
    ),
  );
  return () => {
    for (const t of timers) clearTimeout(t);
  };
}

/** Families of the General MIDI percussion keys that pads usually send. */
const families: Record<number, Family> = {
  35: "kick",
  36: "kick",
  37: "rim",
  38: "snare",
  39: "clap",
  40: "snare",
  41: "tom",
  42: "hat_closed",
  43: "tom",
  44: "hat_closed",
  45: "tom",
  46: "hat_open",
  49: "crash",
  51: "ride",
  54: "tambourine",
  56: "cowbell",
  70: "shaker",
};

/** A note-on message as a stroke; null for anything else. */
export function strokeOf(data: Uint8Array | null, at: number): Stroke | null {
  const [status = 0, key = 0, velocity = 0] = data ?? [];
  const family = families[key];
  return (status & 0xf0) === 0x90 && velocity > 0 && family ? { family, velocity, at } : null;
}

export const hasMIDI = () => "requestMIDIAccess" in navigator;

/** Listens to every MIDI input; returns how to stop. */
export async function listenToMIDI(strike: (s: Stroke) => void): Promise<() => void> {
  const access = await navigator.requestMIDIAccess();
  const inputs = [...access.inputs.values()];
  if (inputs.length === 0) throw new Error("No MIDI controller is connected. Plug one in and try again.");
  for (const i of inputs)
    i.onmidimessage = (e) => {
      const s = strokeOf(e.data, e.timeStamp);
      if (s) strike(s);
    };
  return () => {
    for (const i of inputs) i.onmidimessage = null;
  };
}
