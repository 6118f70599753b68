// Notes of the project's key.
import { scales } from "../../api/facts.gen";

/** Whether a MIDI note is one of a key's, as the core reads keys; every note is where there is none. */
export function inKey(key: string): (note: number) => boolean {
  const found = /^([A-G])([#b♯♭]?)\s*(.*)$/.exec(key.trim());
  const rest = found?.[3] === "m" ? "m" : (found?.[3] ?? "").toLowerCase();
  const steps = scales[rest];
  if (!found || !steps) return () => true;
  const root =
    ({ C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[found[1] ?? "C"] ?? 0) +
    (found[2] === "" ? 0 : found[2] === "#" || found[2] === "♯" ? 1 : -1);
  return (note) => steps.includes((((note - root) % 12) + 12) % 12);
}
