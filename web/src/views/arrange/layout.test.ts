// @vitest-environment jsdom
import { expect, test } from "vitest";
import type { Document } from "../../api/client";
import { barAt, type Facts, placeText, timeAt } from "../../time/piece";
import { roundsOf, withPoint } from "./DrawnLane";
import { laid, lanesOf, nearest, plays, playsAt, snapped } from "./layout";
import { levelsOf } from "./Overlays";
import { firstPair } from "./Row";
import { everyBars } from "./Ruler";
import { type Leg, withBar } from "./WholePanel";

const four = { beats: 4, unit: 4 };
const facts = {
  spans: [
    { section: "s1", from: 0, to: 7680, first_bar: 0, meter: four, from_bpm: 120, to_bpm: 120 },
    {
      section: "s2",
      from: 7680,
      to: 7680 + 3360,
      first_bar: 2,
      meter: { beats: 7, unit: 8 },
      from_bpm: 120,
      to_bpm: 120,
    },
  ],
  bars: [
    { tick: 0, seconds: 0 },
    { tick: 3840, seconds: 2 },
    { tick: 7680, seconds: 4 },
    { tick: 11040, seconds: 5.75 },
  ],
  seconds: 5.75,
  drawn: [],
} satisfies Facts;

const doc = {
  arrangement: {
    sections: [
      {
        id: "s1",
        name: "A",
        variation: "a",
        bars: 2,
        rests: [
          { voice: "kick", from: 3840, to: 4800 },
          { voice: "hat", from: 0, to: 7680 },
        ],
        placed: [],
        dropouts: [],
        automation: [{ at: "kick/level_db", points: [{ bar: 0, value: 0 }] }],
      },
      { id: "s2", name: "B", variation: "a", bars: 1, rests: [], placed: [], dropouts: [], automation: [] },
    ],
    orders: [],
    markers: [],
    speed: {},
  },
  mix: { automation: [] },
} as unknown as Document;

test("bars, beats and times of a piece with two meters", () => {
  expect(barAt(facts, 0)).toBe(0);
  expect(barAt(facts, 7680)).toBe(2);
  expect(barAt(facts, 99999)).toBe(2);
  expect(placeText(facts, 7680 + 480 * 3 + 240)).toBe("3.4.2");
  expect(placeText(facts, 3840 + 960)).toBe("2.2.1");
  expect(timeAt(facts, 3840 + 1920)).toBeCloseTo(3);
  expect(timeAt(facts, 7680 + 1680)).toBeCloseTo(4.875);
});

test("what is painted keeps to bars, beats or sixteenths", () => {
  expect(snapped(facts, 5000, "bar")).toEqual({ from: 3840, to: 7680 });
  expect(snapped(facts, 5000, "beat")).toEqual({ from: 4800, to: 5760 });
  expect(snapped(facts, 7680 + 500, "beat")).toEqual({ from: 8160, to: 8640 });
  expect(nearest(facts, 3700, "bar")).toBe(3840);
  expect(nearest(facts, -50, "bar")).toBe(0);
});

test("a row plays where it is not left out", () => {
  const list = laid(doc, facts);
  expect(plays(list[0] as never, "kick")).toEqual([
    { from: 0, to: 3840 },
    { from: 4800, to: 7680 },
  ]);
  expect(plays(list[0] as never, "hat")).toEqual([]);
  expect(playsAt(list, "kick", 4000)).toBe(false);
  expect(playsAt(list, "kick", 4800)).toBe(true);
  expect(playsAt(list, "hat", 8000)).toBe(true);
});

test("tags at the foot keep apart", () => {
  expect(
    levelsOf([
      { x: 0, name: "A fill" },
      { x: 20, name: "An impact" },
      { x: 30, name: "Riser" },
      { x: 400, name: "Far" },
    ]),
  ).toEqual([0, 1, 2, 0]);
});

test("a run is written down bar by bar", () => {
  let legs: Leg[] = [];
  for (const v of "aabba") legs = withBar(legs, v);
  expect(legs).toEqual([
    { variation: "a", bars: 2 },
    { variation: "b", bars: 2 },
    { variation: "a", bars: 1 },
  ]);
});

test("points of a curve take each other's place", () => {
  const points = withPoint(
    [
      { bar: 0, value: 1 },
      { bar: 2, value: 3 },
    ],
    { bar: 1, value: 9 },
  );
  expect(withPoint(points, { bar: 1, value: 4 })).toEqual([
    { bar: 0, value: 1 },
    { bar: 1, value: 4 },
    { bar: 2, value: 3 },
  ]);
});

test("what is drawn over the loop goes round", () => {
  const loop = [
    { bar: 0, value: 1 },
    { bar: 1, value: 5 },
  ];
  expect(roundsOf(loop, 2, 3).map((q) => [q.bar, q.value])).toEqual([
    [0, 1],
    [0, 1],
    [1, 5],
    [2, 5],
    [2, 1],
    [2, 1],
    [3, 5],
  ]);
});

test("numbers of bars keep apart, and hits are found by their tick", () => {
  expect([100, 20, 5, 1].map(everyBars)).toEqual([1, 2, 8, 64]);
  expect(firstPair([0, 90, 240, 80, 480, 70], 241)).toBe(2);
});

test("lanes are those of what is drawn, and those that were opened", () => {
  expect(lanesOf(doc, facts, ["tempo/bpm"]).map((l) => [l.at, l.row])).toEqual([
    ["kick/level_db", "kick"],
    ["tempo/bpm", ""],
  ]);
});
