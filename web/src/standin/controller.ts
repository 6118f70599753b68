// Pad controllers: the simulated one that ships with the app, which plays back
// recorded takes with velocity, and real ones through Web MIDI where the
// browser has it. Both hand over strokes with the time at which they were made.
import { api, type Family } from "../api/client";
import { percussion } from "../api/facts.gen";
import recorded from "./takes.json";

export interface Stroke {
  family: Family;
  velocity: number;
  /** When it was struck, on the page's clock, ms. */
  at: number;
  /** The MIDI key that was struck, where one was. */
  key?: number;
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
 * Plays a take to a click that begins at a moment of the page's clock, which is asked for
 * again before each stroke: a drummer follows a click that stumbles. Strokes carry the time
 * at which the recorded drummer made them. Returns how to stop it.
 */
export function playBack(take: RecordedTake, tempo: number, from: () => number, strike: (s: Stroke) => void) {
  const left = times(take, tempo);
  let timer: ReturnType<typeof setTimeout>;
  const next = () => {
    for (let h = left[0]; h; h = left[0]) {
      const at = from() + h.ms;
      const wait = at - performance.now();
      if (wait > 0) {
        timer = setTimeout(next, wait);
        return;
      }
      left.shift();
      strike({ family: h.family, velocity: h.velocity, at });
    }
  };
  next();
  return () => clearTimeout(timer);
}

/**
 * The family of each key of a controller: General MIDI's percussion map, under the user's
 * own for MIDI files.
 */
export function keyMap(own: Record<string, Family>): Record<number, Family> {
  return { ...(percussion as Record<number, Family>), ...own };
}

/**
 * A note-on message as a stroke; null for anything else. A key that no map has is
 * percussion, as in MIDI files.
 */
export function strokeOf(data: Uint8Array | null, at: number, map: Record<number, Family>): Stroke | null {
  const [status = 0, key = 0, velocity = 0] = data ?? [];
  if ((status & 0xf0) !== 0x90 || velocity === 0) return null;
  return { family: map[key] ?? "perc", velocity, at, key };
}

export const hasMIDI = () => "requestMIDIAccess" in navigator;

/** Listens to every MIDI input; returns how to stop. */
export async function listenToMIDI(strike: (s: Stroke) => void): Promise<() => void> {
  const access = await navigator.requestMIDIAccess();
  const map = keyMap((await api.mapping()).keys as Record<string, Family>);
  const inputs = [...access.inputs.values()];
  if (inputs.length === 0) throw new Error("No MIDI controller is connected. Plug one in and try again.");
  for (const i of inputs)
    i.onmidimessage = (e) => {
      const s = strokeOf(e.data, e.timeStamp, map);
      if (s) strike(s);
    };
  return () => {
    for (const i of inputs) i.onmidimessage = null;
  };
}
