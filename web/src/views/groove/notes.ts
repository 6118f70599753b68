// Pitches as notes: a voice's own, and those of the project's key.
import type { Document } from "../../api/client";
import { noteOf } from "../../parts/format";

/** The MIDI note nearest to a voice's own pitch; 36 where it is not known (core: Document.RootOf). */
export function rootOf(doc: Document, voice: string): number {
  const v = doc.kit.voices.find((k) => k.id === voice);
  for (const l of v?.layers ?? []) {
    if (l.recipe && l.recipe.body.level_db > -60)
      return Math.round(noteOf(l.recipe.body.end_hz) + l.pitch_st);
    if (l.recording && l.recording.root_hz > 0) return Math.round(noteOf(l.recording.root_hz) + l.pitch_st);
  }
  return 36;
}

const modes: Record<string, number[]> = {
  "": [0, 2, 4, 5, 7, 9, 11],
  major: [0, 2, 4, 5, 7, 9, 11],
  m: [0, 2, 3, 5, 7, 8, 10],
  minor: [0, 2, 3, 5, 7, 8, 10],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  pentatonic: [0, 3, 5, 7, 10],
};

/** Whether a MIDI note is one of a key's, as the core reads keys; every note is where there is none. */
export function inKey(key: string): (note: number) => boolean {
  const found = /^([A-G])([#b♯♭]?)\s*(.*)$/.exec(key.trim());
  const rest = found?.[3] === "m" ? "m" : (found?.[3] ?? "").toLowerCase();
  const steps = modes[rest];
  if (!found || !steps) return () => true;
  const root =
    ({ C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[found[1] ?? "C"] ?? 0) +
    (found[2] === "" ? 0 : found[2] === "#" || found[2] === "♯" ? 1 : -1);
  return (note) => steps.includes((((note - root) % 12) + 12) % 12);
}
