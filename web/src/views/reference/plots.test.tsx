import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Analysis, Schemas } from "../../api/client";
import { SmallWave } from "../../parts/SmallWave";
import { Plots } from "./Plots";

const stat = (family: Schemas["Family"], step: number, count: number): Schemas["StepStat"] => ({
  family,
  step,
  count,
  timed: count,
  offset_ms: 12,
  offset_sd_ms: 2,
  velocity: 90,
  velocity_sd: 5,
});

const analysis = {
  hits: [],
  by_step: [stat("kick", 0, 8), stat("snare", 4, 8), stat("hat_closed", 15, 2)],
  grid: { beats_s: [0, 0.5], downbeat: 0, beats_per_bar: 4 },
  beat_unit: 4,
  steps_per_beat: 4,
  cycle_bars: 1,
  tempo_bpm: 120,
  tempo_curve: [
    { bar: 0, time_s: 1, tempo_bpm: 119.5, stderr_bpm: 0.2 },
    { bar: 1, time_s: 3, tempo_bpm: 120.5, stderr_bpm: 0.2 },
  ],
  third_octaves: [
    { hz: 50.1, db: -6 },
    { hz: 1000, db: -12 },
  ],
  balance_db: { sub: -3, low: -6, low_mid: -9, presence: -12, air: -20 },
} as unknown as Analysis;

const draw = (a: Analysis, recording: string | null = "r") =>
  renderToStaticMarkup(
    <Plots analysis={a} recording={recording} correct={() => {}} width={800} height={150} />,
  );

const circles = (html: string) => [...html.matchAll(/<circle[^>]*>/g)].map((m) => m[0]);

test("the feel plot: one dot a family and step, hollow where there is not enough to say", () => {
  const html = draw(analysis);
  expect(circles(html)).toHaveLength(3);
  expect(circles(html).filter((c) => c.includes("var(--color-base-100)"))).toHaveLength(1);
  expect(html).toContain("Kick, step 1: +12.0 ms, spread 2.0 ms, 8 hits");
  expect(html).toContain("2 hits: not enough to say");
});

test("covered hits show in the velocity plot only", () => {
  const covered = {
    ...analysis,
    by_step: [
      { ...stat("kick", 0, 8), timed: 3 },
      { ...stat("ride", 2, 8), timed: 0 },
    ],
  };
  const html = draw(covered);
  expect(circles(html)).toHaveLength(1);
  expect(html).toContain("3 hits: not enough to say");
});

test("late lies above early", () => {
  const late = Number(circles(draw(analysis))[0]?.match(/cy="([\d.]+)"/)?.[1]);
  const early = draw({
    ...analysis,
    by_step: [{ ...stat("kick", 0, 8), offset_ms: -12 }],
  });
  expect(late).toBeLessThan(Number(circles(early)[0]?.match(/cy="([\d.]+)"/)?.[1]));
});

test("longer patterns name their bars instead of every step", () => {
  const html = draw({ ...analysis, cycle_bars: 4, by_step: [stat("kick", 48, 8)] });
  expect(html).toContain("bar 4");
  expect(draw(analysis)).not.toContain("bar 1");
});

test("without a beat the plot says so", () => {
  expect(draw({ ...analysis, by_step: [] })).toContain("No beat was found.");
});

test("recordings have slices, performances have keys", () => {
  expect(draw(analysis)).toContain("Cuts");
  expect(draw(analysis)).not.toContain(">Keys<");
  expect(draw(analysis, null)).toContain(">Keys<");
});

test("a small wave fills its box whatever its level", () => {
  const loud = renderToStaticMarkup(
    <SmallWave
      points={[
        [-1, 1],
        [-0.5, 0.5],
      ]}
      colour="red"
    />,
  );
  const soft = renderToStaticMarkup(
    <SmallWave
      points={[
        [-0.01, 0.01],
        [-0.005, 0.005],
      ]}
      colour="red"
    />,
  );
  expect(loud).toBe(soft);
  expect(loud).toContain("0,2.0");
  expect(renderToStaticMarkup(<SmallWave points={[]} colour="red" />)).toContain("<svg");
});
