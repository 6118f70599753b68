import { expect, test, vi } from "vitest";
import { playBack, type RecordedTake, strokeOf, takes, times } from "./controller";

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
    ],
  };
  const from = performance.now();
  const stop = playBack(take, 120, from, (s) => heard.push(s));
  vi.advanceTimersByTime(600);
  expect(heard.map((s) => s.family)).toEqual(["kick", "snare"]);
  expect((heard[1]?.at ?? 0) - from).toBeCloseTo(512, 3);
  stop();
  vi.advanceTimersByTime(2000);
  expect(heard.length).toBe(2);
  vi.useRealTimers();
});

test("MIDI: note-ons of known keys are strokes", () => {
  expect(strokeOf(new Uint8Array([0x99, 38, 101]), 5)).toEqual({ family: "snare", velocity: 101, at: 5 });
  expect(strokeOf(new Uint8Array([0x99, 38, 0]), 5)).toBeNull();
  expect(strokeOf(new Uint8Array([0x89, 38, 64]), 5)).toBeNull();
  expect(strokeOf(new Uint8Array([0xb0, 7, 64]), 5)).toBeNull();
  expect(strokeOf(null, 5)).toBeNull();
});
