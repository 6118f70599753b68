import { expect, test, vi } from "vitest";
import { keyMap, playBack, type RecordedTake, strokeOf, takes, times } from "./controller";

test("the recorded takes are human: velocities and offsets differ", () => {
  expect(takes.length).toBeGreaterThan(2);
  for (const t of takes) {
    expect(new Set(t.hits.map((h) => h.velocity)).size).toBeGreaterThan(10);
    expect(new Set(t.hits.map((h) => h.offset_ms)).size).toBeGreaterThan(20);
    const ms = times(t, t.tempo_bpm).map((h) => h.ms);
    expect([...ms].sort((a, b) => a - b)).toEqual(ms);
  }
});

test("a take is played back at the moments of its strokes, and can be stopped", () => {
  vi.useFakeTimers();
  const heard: { family: string; at: number }[] = [];
  const take: RecordedTake = {
    name: "x",
    tempo_bpm: 120,
    hits: [
      { beat: 0, offset_ms: 0, family: "kick", velocity: 100 },
      { beat: 1, offset_ms: 12, family: "snare", velocity: 90 },
      { beat: 2, offset_ms: 0, family: "kick", velocity: 100 },
      { beat: 4, offset_ms: 0, family: "kick", velocity: 100 },
    ],
  };
  let from = performance.now();
  const stop = playBack(
    take,
    120,
    () => from,
    (s) => heard.push(s),
  );
  vi.advanceTimersByTime(600);
  expect(heard.map((s) => s.family)).toEqual(["kick", "snare"]);
  expect((heard[1]?.at ?? 0) - from).toBeCloseTo(512, 3);
  from += 130; // the click has stumbled
  vi.advanceTimersByTime(500);
  expect(heard.length, "the drummer waits for it").toBe(2);
  vi.advanceTimersByTime(100);
  expect((heard[2]?.at ?? 0) - from).toBeCloseTo(1000, 3);
  stop();
  vi.advanceTimersByTime(2000);
  expect(heard.length).toBe(3);
  vi.useRealTimers();
});

test("MIDI: every note-on is a stroke, filed by the one map and the user's own", () => {
  const map = keyMap({});
  const on = (key: number, of = map) => strokeOf(new Uint8Array([0x99, key, 101]), 5, of);
  expect(on(38)).toEqual({ family: "snare", velocity: 101, at: 5, key: 38 });
  // Keys that vanished once; General MIDI Level 1's percussion map.
  const filed: Record<number, string> = {
    47: "tom",
    48: "tom",
    50: "tom",
    52: "crash",
    53: "ride",
    55: "crash",
    57: "crash",
    59: "ride",
    60: "conga",
    61: "conga",
    62: "conga",
    63: "conga",
    64: "conga",
    69: "shaker",
    82: "shaker",
  };
  for (const [key, family] of Object.entries(filed)) expect(on(Number(key))?.family, key).toBe(family);
  for (let key = 0; key < 128; key++) expect(on(key)).not.toBeNull();
  expect(on(20, keyMap({ 20: "clap" }))?.family).toBe("clap");
  expect(on(38, keyMap({ 38: "rim" }))?.family).toBe("rim");
  expect(strokeOf(new Uint8Array([0x99, 38, 0]), 5, map)).toBeNull();
  expect(strokeOf(new Uint8Array([0x89, 38, 64]), 5, map)).toBeNull();
  expect(strokeOf(new Uint8Array([0xb0, 7, 64]), 5, map)).toBeNull();
  expect(strokeOf(null, 5, map)).toBeNull();
});
