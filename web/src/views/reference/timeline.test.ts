import { expect, test } from "vitest";
import type { Analysis } from "../../api/client";
import { barAndBeat, barSeconds, earliestBar, timelineOf } from "./timeline";

const heard = (downbeat: number, firstHit: number) =>
  ({
    grid: { beats_s: [0.1, 0.6, 1.1, 1.6, 2.1, 2.6], downbeat, beats_per_bar: 4 },
    hits: [{ time_s: firstHit }, { time_s: 2.1 }],
  }) as unknown as Analysis;

test("a pickup can be shown, and only where there is one", () => {
  expect(earliestBar(heard(2, 0.6))).toBe(-1);
  expect(earliestBar(heard(2, 1.07))).toBe(0);
  expect(earliestBar(heard(0, 0.1))).toBe(0);
  const pickup = timelineOf(heard(2, 0.6), -1, 1, 400);
  expect(pickup.from).toBeLessThan(0.1);
  expect(pickup.to).toBeGreaterThan(1.1);
  expect(pickup.seconds(pickup.x(0.6))).toBeCloseTo(0.6, 9);
});

test("bars and beats count from one, the pickup is bar 0", () => {
  const a = heard(2, 0.6);
  expect(barAndBeat(a, 2)).toEqual({ bar: 1, beat: 1 });
  expect(barAndBeat(a, 5)).toEqual({ bar: 1, beat: 4 });
  expect(barAndBeat(a, 1)).toEqual({ bar: 0, beat: 4 });
  expect(barSeconds(a, 0)).toBeCloseTo(1.1, 9);
});
