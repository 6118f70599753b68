import { expect, test } from "vitest";
import type { Analysis } from "../../api/client";
import { barAndBeat, barSeconds, barsOf, earliestBar, timelineOf, viewOfBars } from "./timeline";

const heard = (downbeat: number, firstHit: number) =>
  ({
    grid: { beats_s: [0.1, 0.6, 1.1, 1.6, 2.1, 2.6], downbeat, beats_per_bar: 4 },
    hits: [{ time_s: firstHit }, { time_s: 2.1 }],
  }) as unknown as Analysis;

test("a pickup can be shown, and only where there is one", () => {
  expect(earliestBar(heard(2, 0.6))).toBe(-1);
  expect(earliestBar(heard(2, 1.07))).toBe(0);
  expect(earliestBar(heard(0, 0.1))).toBe(0);
  const pickup = timelineOf(viewOfBars(heard(2, 0.6), -1, 1), 400);
  expect(pickup.from).toBeLessThan(0.1);
  expect(pickup.to).toBeGreaterThan(1.1);
  expect(pickup.at(pickup.x(0.6))).toBeCloseTo(0.6, 9);
});

test("bars and beats count from one, the pickup is bar 0", () => {
  const a = heard(2, 0.6);
  expect(barAndBeat(a, 2)).toEqual({ bar: 1, beat: 1 });
  expect(barAndBeat(a, 5)).toEqual({ bar: 1, beat: 4 });
  expect(barAndBeat(a, 1)).toEqual({ bar: 0, beat: 4 });
  expect(barSeconds(a, 0)).toBeCloseTo(1.1, 9);
});

test("which bars a view shows, whole or not", () => {
  const a = { ...heard(0, 0.1), bars: 8 } as Analysis;
  for (const [first, bars] of [
    [0, 2],
    [1, 4],
    [3, 1],
    [0, 8],
  ] as const)
    expect(barsOf(a, viewOfBars(a, first, bars))).toEqual({ first, bars });
  const { from, to } = viewOfBars(a, 1, 4);
  expect(barsOf(a, { from: from + 0.9, to: to + 0.9 }).bars).toBe(4);
  expect(barsOf(a, { from: 2.3, to: 2.6 })).toEqual({ first: 2, bars: 1 });
});
