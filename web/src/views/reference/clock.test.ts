import { expect, test } from "vitest";
import { rangeText } from "../../parts/ranges";
import { ClickClock, medianOffset } from "./clock";

test("the click's beginning is the median of what many rough reports say", () => {
  const clock = new ClickClock(8, 20);
  expect(clock.start()).toBeNull();
  for (let i = 0; i < 50; i++) {
    const seconds = i * 0.01;
    const rough = [0, 4, 1, 2, 90][i % 5] ?? 0; // ms late, sometimes very
    clock.hear(seconds / 8, 1000 + seconds * 1000 + rough);
  }
  expect(clock.start()).toBeCloseTo(1000 + 2 + 20, 6);
});

test("a click that stumbles is late from there on, and only from there on", () => {
  const clock = new ClickClock(8, 0);
  for (let i = 0; i < 800; i++) {
    const stumbled = i >= 400 ? 130 : 0; // ms without sound at 4 s
    clock.hear((i * 0.01) / 8, 1000 + i * 10 + stumbled);
  }
  expect(clock.start(3000)).toBeCloseTo(1000, 6);
  expect(clock.start(4300)).toBeCloseTo(1000, 6);
  expect(clock.start(5900)).toBeCloseTo(1130, 6);
  expect(clock.start()).toBeCloseTo(1130, 6);
  expect(clock.start(0), "before the first report it counts").toBeCloseTo(1000, 6);
});

test("the median offset of a take is what all of it is late by", () => {
  const hits = [0, 0.512, 1.012, 1.5, 2.013].map((time_s) => ({
    time_s,
    family: "kick" as const,
    velocity: 90,
  }));
  expect(medianOffset(hits, 120)).toBeCloseTo(12, 6);
  expect(medianOffset([], 120)).toBe(0);
});

test("ranges in words", () => {
  expect(rangeText({ low: 84, high: 96 }, "BPM")).toBe("84 to 96 BPM");
  expect(rangeText({ low: 57.8, high: 57.8 }, "%", 1)).toBe("57.8 %");
  expect(rangeText({ low: -2, high: 6 }, "", 0, true)).toBe("−2 to +6");
  expect(rangeText(null, "Hz")).toBe("–");
});
