// Numbers as people read them.

/** With a true minus sign, a plus where asked, and a dash for what is not known. */
export function num(v: number | null | undefined, digits = 1, plus = false): string {
  if (v === null || v === undefined || !Number.isFinite(v)) return "–";
  const r = Number(v.toFixed(digits));
  const text = Math.abs(r).toFixed(digits);
  if (r < 0) return `−${text}`;
  return plus && r > 0 ? `+${text}` : text;
}

export const noteNames = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];

/** The MIDI note of a frequency, C4 = 60, with fractions. */
export const noteOf = (hz: number) => 69 + 12 * Math.log2(hz / 440);

/** A frequency as its nearest note and cents, C4 = MIDI 60: "F♯1 −2 ct". */
export function noteText(hz: number): string {
  const n = noteOf(hz);
  const near = Math.round(n);
  const cents = Math.round((n - near) * 100);
  return `${noteNames[((near % 12) + 12) % 12]}${Math.floor(near / 12) - 1} ${num(cents, 0, true)} ct`;
}

/** Ticks as bar.beat.sixteenth, counted from 1. */
export function position(tick: number, beatsPerBar: number): string {
  const sixteenth = Math.floor(tick / 240 + 1e-6);
  const perBar = beatsPerBar * 4;
  const bar = Math.floor(sixteenth / perBar);
  const rest = sixteenth - bar * perBar;
  return `${bar + 1}.${Math.floor(rest / 4) + 1}.${(rest % 4) + 1}`;
}

export function clock(seconds: number): string {
  const m = Math.floor(seconds / 60);
  return `${String(m).padStart(2, "0")}:${(seconds - 60 * m).toFixed(3).padStart(6, "0")}`;
}

/** A size on the disk: "812 kB", "3.4 MB". */
export function bytes(n: number): string {
  if (n < 1e6) return `${Math.max(Math.round(n / 1e3), 1)} kB`;
  return n < 1e9 ? `${num(n / 1e6, n < 1e7 ? 1 : 0)} MB` : `${num(n / 1e9, 1)} GB`;
}

export const clamp = (v: number, lo: number, hi: number) => Math.min(Math.max(v, lo), hi);

/** Seconds as minutes and seconds, with hours where there are any. */
export function minutes(seconds: number): string {
  const s = Math.round(seconds);
  const two = (n: number) => String(n).padStart(2, "0");
  const h = Math.floor(s / 3600);
  const m = Math.floor((s % 3600) / 60);
  return h > 0 ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
}

/** Reads what minutes writes, or plain seconds; null where it is no time. */
export function secondsOf(text: string): number | null {
  const parts = text.trim().split(":");
  if (parts.length > 3 || parts.some((p) => !/^\d+(\.\d+)?$/.test(p))) return null;
  return parts.reduce((sum, p) => sum * 60 + Number(p), 0);
}

/** A number of things in words: "1 step", "2 steps". */
export const count = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;
