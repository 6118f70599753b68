import { beforeEach, expect, test } from "vitest";
import type { Analysis, Document, Edit, State } from "../api/client";
import { chosen, copy, paste, repeat, useSelection } from "../state/selection";
import { firstView, gridLines, grooveAxis, heardDots, limitsOf, myDots, placed } from "./groove/layout";
import { hitsByRule, isOfClass, type Rule } from "./groove/select";
import { steps } from "./reference/HitRow";
import { barSeconds, timelineOf, viewOfBars } from "./reference/timeline";

const doc = {
  tempo: [{ tick: 0, bpm: 120 }],
  kit: { voices: [{ id: "kick", family: "kick" }] },
  groove: {
    bars: 2,
    grid: 4,
    meter: { beats: 4, unit: 4 },
    lanes: [
      {
        voice: "kick",
        steps: 0,
        hits: [
          { id: "a", tick: 0, velocity: 100, nudge_ms: 0, semitones: 0 },
          { id: "b", tick: 960, velocity: 80, nudge_ms: -6.5, semitones: 3 },
        ],
      },
    ],
  },
} as unknown as Document;

const state = {
  document: doc,
  falls: [
    [
      { hit: "a", offset_ms: 0, velocity: 100 },
      { hit: "b", offset_ms: 12, velocity: 80 },
    ],
  ],
} as unknown as State;

const analysis = {
  duration_s: 4.2,
  bars: 2,
  grid: { beats_s: [0.1, 0.6, 1.1, 1.6, 2.1, 2.6, 3.1, 3.6], downbeat: 0, beats_per_bar: 4 },
  beat_unit: 4,
  steps_per_beat: 4,
  left_out: [],
  hits: [
    {
      id: "r1",
      time_s: 0.11,
      family: "kick",
      velocity: 100,
      confidence: 1,
      bar: 0,
      step: 0,
      offset_ms: 10,
      within_ticks: 0,
    },
    // a stroke of a roll, between steps
    {
      id: "r3",
      time_s: 0.19,
      family: "kick",
      velocity: 70,
      confidence: 1,
      bar: 0,
      step: 0,
      offset_ms: 10,
      within_ticks: 160,
      grace: false,
    },
    {
      id: "r2",
      time_s: 0.6,
      family: "snare",
      velocity: 100,
      confidence: 1,
      bar: null,
      step: null,
      offset_ms: null,
    },
  ],
} as unknown as Analysis;

test("the groove's axis: pixels to steps and back, within its ends", () => {
  const axis = grooveAxis(doc, firstView(doc), 828);
  expect(axis.total).toBe(7680);
  for (const tick of [0, 240, 960, 7440]) expect(axis.step(axis.x(tick))).toBe(tick);
  expect(axis.step(-50)).toBe(0);
  expect(axis.step(5000)).toBe(7440);
  // 800 pixels for 4 s.
  expect(axis.msPixels).toBeCloseTo(0.2, 6);
});

test("dots of mine and of the reference; what has no place is left out", () => {
  expect(myDots(state).map((d) => [d.step, d.offset])).toEqual([
    [0, 0],
    [4, 12],
  ]);
  expect(heardDots(analysis).map((d) => d.key)).toEqual(["r1"]);
  expect(heardDots(undefined)).toEqual([]);
});

beforeEach(() => useSelection.getState().set({ voice: "kick", tick: 0, hits: [], tool: "draw" }));

test("a selection forgets hits that are gone", () => {
  const hits = [
    { voice: "kick", hit: "b" },
    { voice: "kick", hit: "zz" },
  ];
  expect(chosen(state, hits).map((c) => c.hit.id)).toEqual(["b"]);
});

const putIn = ([e]: Edit[]) => (e?.op === "hit.put" ? e.hits : undefined);

test("copy, paste and repeat stay within the groove", () => {
  useSelection.getState().set({
    hits: [
      { voice: "kick", hit: "a" },
      { voice: "kick", hit: "b" },
    ],
  });
  copy(state);
  // Nudge and pitch go along.
  const [a, b] = chosen(state, useSelection.getState().hits).map((c) => c.hit);
  expect(paste(1920, 7680)).toEqual([
    {
      op: "hit.put",
      hits: [
        { voice: "kick", hit: { ...a, tick: 1920 } },
        { voice: "kick", hit: { ...b, tick: 2880, velocity: 80, nudge_ms: -6.5, semitones: 3 } },
      ],
    },
  ]);
  expect(putIn(paste(7440, 7680))?.length).toBe(1);
  expect(paste(7680, 7680)).toEqual([]);
  expect(putIn(repeat(state, 3840, 7680))?.map((h) => h.hit.tick)).toEqual([3840, 4800]);
  expect(putIn(repeat(state, 7000, 7680))?.map((h) => h.hit.tick)).toEqual([7000]);
});

test("bars of the reference, beyond its grid too", () => {
  expect(barSeconds(analysis, 0)).toBeCloseTo(0.1);
  expect(barSeconds(analysis, 1)).toBeCloseTo(2.1);
  expect(barSeconds(analysis, 2)).toBeCloseTo(4.1);
  expect(barSeconds(analysis, -1)).toBeCloseTo(-1.9);
});

test("the reference's time axis and its lines", () => {
  const time = timelineOf(viewOfBars(analysis, 0, 1), 816);
  for (const s of [0.1, 1.234, 2]) expect(time.at(time.x(s))).toBeCloseTo(s, 9);
  const lines = steps(analysis, time);
  expect(lines.filter((l) => l.rank === 0).map((l) => l.at)).toEqual([0.1, 2.1]);
  expect(lines.filter((l) => l.rank === 1).length).toBe(3);
  expect(lines.filter((l) => l.rank === 2).length).toBe(12);
});

test("a long groove shows its first four bars, and only what is in sight is placed", () => {
  const bars = 64;
  const hits = Array.from({ length: bars * 16 }, (_, i) => ({
    id: `h${i}`,
    tick: i * 240,
    velocity: 90,
    nudge_ms: 0,
    semitones: 0,
  }));
  const long = { ...doc, groove: { ...doc.groove, bars } } as Document;
  expect(limitsOf(long)).toEqual({ from: 0, to: bars * 3840, least: 960 });
  expect(firstView(long)).toEqual({ from: 0, to: 4 * 3840 });
  const view = { from: 10 * 3840, to: 14 * 3840 };
  const axis = grooveAxis(long, view, 828);
  const shown = placed(hits, [], axis, 1);
  expect(shown.length).toBeLessThan(80);
  for (const h of hits)
    if (h.tick >= view.from && h.tick <= view.to) expect(shown.some((s) => s.hit.id === h.id)).toBe(true);
  expect(gridLines(axis).filter((l) => l.rank === 0)).toHaveLength(5);
  expect(gridLines(axis).filter((l) => l.rank === 2)).toHaveLength(48);
  const all = grooveAxis(long, limitsOf(long), 828);
  expect(
    gridLines(all).every((l) => l.rank === 0),
    "of a wide view only bars",
  ).toBe(true);
});

test("hits are selected by step and velocity", () => {
  const ids = (r: Partial<Rule>) =>
    hitsByRule(state, { voice: "", steps: "any", from: 1, to: 127, ...r }).map((h) => h.hit);
  expect(ids({})).toEqual(["a", "b"]);
  expect(ids({ from: 90 })).toEqual(["a"]);
  expect(ids({ to: 80 })).toEqual(["b"]);
  expect(ids({ voice: "snare" })).toEqual([]);
  expect(ids({ steps: "offbeats" })).toEqual([]);
  const classes = (["beats", "offbeats", "between"] as const).map((of) =>
    [0, 240, 480, 720, 960, 1440, 320].filter((t) => isOfClass(t, 960, of)),
  );
  expect(classes).toEqual([
    [0, 960],
    [480, 1440],
    [240, 720, 320],
  ]);
});
