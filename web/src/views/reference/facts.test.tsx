import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Analysis, HeardHit, Schemas } from "../../api/client";
import { Facts } from "./Facts";
import { ProfileTable } from "./ProfileTable";
import { barSeconds } from "./timeline";

const fact = (part: Partial<Schemas["Fact"]>): Schemas["Fact"] => ({
  id: "lean",
  family: "snare",
  name: "Lean",
  value: 11,
  stderr: 0.8,
  unit: "ms",
  count: 16,
  text: "",
  ...part,
});

/** A fact of the whole, of no family. */
const whole = (part: Partial<Schemas["Fact"]>): Schemas["Fact"] => {
  const { family: _, ...rest } = fact(part);
  return rest;
};

const analysis = {
  duration_s: 20,
  tempo_bpm: 92,
  tempo_confidence: 0.93,
  hits: [],
  feel: { anchor: "kick", voices: {} },
  level: { lufs_integrated: -12.3, true_peak_dbtp: null, crest_db: null },
  kick_fundamental_hz: 54.1,
  facts: [
    fact({ text: "Snare 11 ms late." }),
    whole({ id: "cycle", name: "Pattern", value: 1, stderr: null, unit: "bars" }),
    whole({
      id: "swing",
      name: "Swing of 16ths",
      value: null,
      stderr: null,
      unit: "%",
      count: 3,
    }),
    fact({ id: "between", name: "Between the eighths", value: 6.2, stderr: 0.4 }),
    whole({ id: "tempo", name: "Tempo", value: 92.02, stderr: 0.07, unit: "BPM" }),
  ],
} as unknown as Analysis;

const draw = (a: Analysis, hit?: HeardHit) =>
  renderToStaticMarkup(
    <QueryClientProvider client={new QueryClient()}>
      <Facts
        analysis={a}
        info={undefined}
        hit={hit}
        onRefile={() => {}}
        onDrop={() => {}}
        onMove={() => {}}
        onWeigh={() => {}}
        onTake={() => {}}
      />
    </QueryClientProvider>,
  );

test("facts: sentences, numbers with their uncertainty, and how many hits speak", () => {
  const html = draw(analysis);
  expect(html).toContain("Snare 11\u00a0ms late."); // a number and its unit stay on one line
  expect(html).toContain("+11.0 ±0.8 ms");
  expect(html).toContain("+6.2 ±0.4 ms");
  expect(html).toMatch(/Snare<.*>Lean<.*\+11\.0 ±0\.8 ms<.*>16</); // under its family, with its hits
  expect(html).toContain("1 bar<");
  expect(html).toContain("92.02 ±0.07 BPM");
  expect(html).toContain("not enough to say");
  expect(html).toContain("−12.3 LUFS");
});

test("of a loop that is the same from a later beat, bar one is no percentage", () => {
  const text = "The loop is the same from 2 beats later: bar one may as well lie there.";
  const barOne = whole({ id: "bar_one", name: "Bar one", value: null, text });
  const alike = {
    ...analysis,
    bar_one_confidence: null,
    alike_beats: 2,
    facts: [barOne],
  } as unknown as Analysis;
  expect(draw(alike), "short: its cell does not wrap").toMatch(/Bar one<.*>same 2 beats later</);
  expect(draw({ ...analysis, bar_one_confidence: 0.91, alike_beats: null } as unknown as Analysis)).toContain(
    "91 % sure",
  );
});

test("without a beat it says what is missing", () => {
  expect(draw({ ...analysis, tempo_bpm: null } as Analysis)).toContain("No drums were heard in this file.");
});

test("the chosen hit shows its time and strength as fields", () => {
  const hit = { id: "r1", time_s: 1.234, offset_ms: 11, velocity: 104, confidence: 0.97, family: "snare" };
  const html = draw(analysis, hit as HeardHit);
  expect(html).toContain('aria-label="Selected hit"');
  expect(html).toContain('value="1.234"');
  expect(html).toContain('value="104"');
  expect(html).toContain("97 %");
  expect(html).not.toContain("hides its onset");
  expect(draw(analysis, { ...hit, covered: true } as HeardHit)).toContain("Masked by another sound");
});

test("a profile is shown family by family", () => {
  const range = (low: number, high: number) => ({ low, high });
  const profile = {
    tempo_bpm: range(84, 96),
    meter: "4/4",
    pair: 16,
    swing_percent: range(54, 62),
    kick_fundamental_hz: null,
    voices: {
      snare: { lean_ms: range(5, 16), scatter_ms: null, velocity: range(70, 115), density: range(0.5, 1) },
    },
    tones: {
      snare: {
        fundamental_hz: null,
        decay_60db_ms: range(180, 220),
        spectral_centroid_hz: range(3100, 3100),
        count: 4,
      },
    },
  } as unknown as Schemas["Profile"];
  const html = renderToStaticMarkup(
    <QueryClientProvider client={new QueryClient()}>
      <ProfileTable profile={profile} />
    </QueryClientProvider>,
  );
  expect(html).toContain("84 to 96 BPM");
  expect(html).toContain("+5 to +16");
  expect(html).toContain("0.5 to 1.0");
  expect(html).toContain("180 to 220");
  expect(html).toContain(">3100<");
});

test("bars beyond the grid go on at its last beat", () => {
  const a = {
    ...analysis,
    grid: { beats_s: [0, 0.5, 1, 1.5, 2], downbeat: 0, beats_per_bar: 4 },
  } as Analysis;
  expect(barSeconds(a, 0)).toBe(0);
  expect(barSeconds(a, 3)).toBeCloseTo(6);
});
