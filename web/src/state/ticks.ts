// Musical time as the core counts it: so many ticks to a quarter note.
import { ppq } from "../api/facts.gen";

export { ppq };

interface Meter {
  beats: number;
  unit: number;
}

/** How many ticks a note value has: 4 a quarter, 16 a sixteenth. */
export const noteTicks = (unit: number) => (4 * ppq) / unit;

/** How many ticks a bar of a meter has. */
export const barTicks = (m: Meter) => m.beats * noteTicks(m.unit);

/** How long so many ticks last, s, at a tempo in quarter notes a minute. */
export const secondsOf = (ticks: number, bpm: number) => (ticks * 60) / (bpm * ppq);
