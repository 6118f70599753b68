// @vitest-environment jsdom
// What the parts of Arrange say and draw, without a browser's layout.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { flushSync } from "react-dom";
import { createRoot } from "react-dom/client";
import { beforeEach, expect, test } from "vitest";
import type { Document } from "../../api/client";
import { axisOf } from "../../time/axis";
import type { Facts } from "../../time/piece";
import type { TimeView } from "../../time/useTimeView";
import { Backings } from "./Backings";
import { DrawnLane } from "./DrawnLane";
import { DrawPanel } from "./DrawPanel";
import { laid, lanesOf } from "./layout";
import { Overlays } from "./Overlays";
import { OverPanel } from "./OverPanel";
import { PutPanel } from "./PutPanel";
import { Ruler } from "./Ruler";
import { SectionPanel } from "./SectionPanel";
import { Sections } from "./Sections";
import { chooseIn, useArrange } from "./store";
import { WholePanel } from "./WholePanel";

const four = { beats: 4, unit: 4 };
const level = {
  id: "level_db",
  part: "",
  label: "Level",
  unit: "dB",
  min: -60,
  max: 12,
  default: -6,
  scale: "dB" as const,
};

const facts = {
  spans: [
    { section: "s1", from: 0, to: 8 * 3840, first_bar: 0, meter: four, from_bpm: 92, to_bpm: 92 },
    { section: "s2", from: 8 * 3840, to: 11 * 3840, first_bar: 8, meter: four, from_bpm: 92, to_bpm: 120 },
  ],
  bars: Array.from({ length: 12 }, (_, i) => ({ tick: i * 3840, seconds: i * 2.6 })),
  seconds: 28.6,
  drawn: [
    { at: "kick/level_db", param: level, of: "Kick", value: -6 },
    {
      at: "tempo/bpm",
      param: { ...level, id: "bpm", label: "Tempo", unit: "BPM", min: 20, max: 400 },
      of: "Song",
      value: 92,
    },
  ],
} satisfies Facts;

const doc = {
  kit: {
    voices: [
      { id: "kick", name: "Kick", family: "kick" },
      { id: "hat", name: "Hat", family: "hat_closed" },
    ],
  },
  groove: { meter: four, bars: 2, lanes: [{ voice: "kick", hits: [{ id: "h1" }] }] },
  variations: [
    { id: "a", name: "" },
    { id: "b", name: "busy", groove: { bars: 2, lanes: [] } },
    { id: "place1", name: "Bar 3 of Doors", here: true, groove: { bars: 1, lanes: [] } },
  ],
  variation: "a",
  references: [],
  active_reference: "",
  mix: { automation: [], buses: [] },
  arrangement: {
    sections: [
      {
        id: "s1",
        name: "Doors",
        variation: "a",
        bars: 8,
        rests: [],
        placed: [
          {
            id: "o1",
            kind: "fill",
            name: "Toe drag",
            at: 7 * 3840,
            length: 3840,
            variation: "place1",
            keeps: ["hat"],
          },
        ],
        dropouts: [{ id: "o2", at: 3840, length: 3840, keeps: [] }],
        automation: [
          {
            at: "kick/level_db",
            points: [
              { bar: 0, value: -30 },
              { bar: 8, value: -6 },
            ],
          },
        ],
      },
      {
        id: "s2",
        name: "Full floor",
        variation: "b",
        bars: 3,
        tempo_to_bpm: 120,
        meter: { beats: 4, unit: 4 },
        rests: [],
        placed: [],
        dropouts: [],
        automation: [],
      },
    ],
    orders: [{ id: "order1", name: "Before the run", sections: [{ bars: 5 }] }],
    markers: [{ id: "m1", name: "Drop", section: "s2", tick: 0 }],
    speed: { semitones: 3 },
    backings: [
      {
        id: "b1",
        name: "Organ",
        blob: "x",
        at: 0,
        rounds: 1,
        fit: "stretched",
        pitch_st: 2,
        drumless: true,
        duck_db: 6,
        mute: false,
      },
    ],
  },
} as unknown as Document;

const axis = axisOf({ from: 0, to: 11 * 3840 }, 700, 6);
const list = laid(doc, facts);
function drawn(what: React.ReactNode, client = new QueryClient()): HTMLElement {
  const el = document.createElement("div");
  flushSync(() => createRoot(el).render(<QueryClientProvider client={client}>{what}</QueryClientProvider>));
  return el;
}

const draw = (what: React.ReactNode) => drawn(what).innerHTML;

/** The numbers that may be drawn, as they have come. */
const known = () => {
  const client = new QueryClient();
  client.setQueryData(["drawable", "", 0], { drawable: facts.drawn });
  return client;
};

beforeEach(() => {
  chooseIn(Math.random().toString());
  useArrange.setState({ section: "s1" });
});

test("sections say their bars, variation, meter and ramp", () => {
  const html = draw(<Sections doc={doc} facts={facts} list={list} axis={axis} left={100} />);
  expect(html).toContain('aria-label="Doors, 8 bars, variation A"');
  expect(html).toContain('aria-label="Full floor, 3 bars, variation B, busy"');
  expect(html).toContain("92→120 BPM");
  expect(html.match(/aria-selected="true"/g)).toHaveLength(1);
});

test("the ruler numbers bars and holds markers", () => {
  const html = draw(<Ruler doc={doc} facts={facts} axis={axis} left={100} time={{} as TimeView} />);
  for (const bar of ["1", "5", "11"]) expect(html).toMatch(new RegExp(`>${bar}</text>`));
  expect(html).toContain("Drop: the cursor goes there");
});

test("a lane draws what its section draws, and the number as it is set elsewhere", () => {
  const lane = lanesOf(doc, facts, [])[0];
  if (!lane) throw new Error("no lane");
  const html = draw(<DrawnLane doc={doc} lane={lane} list={list} axis={axis} left={100} />);
  expect(html).toContain("Kick: level, drawn over the piece");
  expect(html.match(/<polyline/g)).toHaveLength(2);
  expect(html.match(/data-base/g), "it is as it is set in the other section").toHaveLength(1);
  expect(html.match(/<circle/g)).toHaveLength(2);
  expect(html).toContain("−30.0 → −6.0 dB");
  expect(
    draw(<DrawnLane doc={doc} lane={{ ...lane, number: undefined }} list={list} axis={axis} left={100} />),
  ).toBe("");
});

test("what lies over the rows is named with its place", () => {
  const html = draw(<Overlays facts={facts} list={list} axis={axis} left={100} />);
  expect(html).toContain('aria-label="all out at 2.1.1"');
  expect(html).toContain('aria-label="Toe drag at 8.1.1"');
});

test("the panel of a section offers its bar at the cursor, and variations that have names", () => {
  useArrange.setState({ cursor: 2 * 3840 });
  const of = list[0];
  if (!of) throw new Error("no section");
  const html = draw(<SectionPanel doc={doc} facts={facts} of={of} />);
  expect(html).toContain("Bar 3");
  expect(html).toContain("for here only");
  expect(html).toContain("B, busy");
  expect(html, "grooves of places are not offered").not.toContain("Bar 3 of Doors");
  expect(html).toMatch(/<button[^>]*title="At the cursor \(S\)"[^>]*>Split/);
  useArrange.setState({ cursor: 10 * 3840 });
  expect(draw(<SectionPanel doc={doc} facts={facts} of={of} />), "the cursor lies elsewhere").not.toContain(
    "for here only",
  );
});

test("the panel of a thing says what goes on beneath it", () => {
  useArrange.setState({ over: { section: "s1", id: "o1" }, panel: "over" });
  const fill = draw(<OverPanel doc={doc} facts={facts} list={list} />);
  expect(fill).toContain("Fill");
  expect(fill).toContain("8.1.1");
  expect(fill).toContain("Open in Groove");
  const boxes = drawn(<OverPanel doc={doc} facts={facts} list={list} />).querySelectorAll(
    "fieldset input:checked",
  );
  expect(boxes, "the hat goes on").toHaveLength(1);
  useArrange.setState({ over: { section: "s1", id: "o2" } });
  const dropout = draw(<OverPanel doc={doc} facts={facts} list={list} />);
  expect(dropout).toContain("Struck once at its start");
  expect(dropout).not.toContain("Open in Groove");
  useArrange.setState({ over: { section: "s1", id: "gone" } });
  expect(draw(<OverPanel doc={doc} facts={facts} list={list} />)).toContain("Nothing is chosen");
});

test("what can be put says where it goes", () => {
  useArrange.setState({ cursor: 4 * 3840 });
  expect(draw(<PutPanel doc={doc} facts={facts} />)).toContain("At the cursor, 5.1.1");
  useArrange.setState({ range: { from: 3840, to: 3 * 3840 } });
  expect(draw(<PutPanel doc={doc} facts={facts} />)).toContain("Over 2.1.1 to 4.1.1");
  expect(draw(<PutPanel doc={doc} facts={facts} />)).toContain("All but Kick");
});

test("numbers to draw, and the points of the section as numbers", () => {
  const of = list[0];
  if (!of) throw new Error("no section");
  const html = drawn(<DrawPanel doc={doc} of={of} />, known()).innerHTML;
  expect(html).toContain("Kick: level");
  expect(html).toContain("Song: tempo");
  expect(html).toContain('aria-label="Level at bar 9.00"');
});

test("the whole says its speed, kept orders and markers; a run needs two variations", () => {
  const html = draw(<WholePanel doc={doc} facts={facts} />);
  expect(html).toContain("+3.00 st");
  expect(html).toContain("Before the run");
  expect(html).toContain("9.1.1");
  expect(html).toMatch(/<button[^>]*title=""[^>]*>Begin a run/);
  const one = { ...doc, variations: doc.variations.slice(0, 1) } as Document;
  expect(draw(<WholePanel doc={one} facts={facts} />)).toContain("Make a second variation in Groove first");
});

test("a backing says what is done to it, or that it is prepared", () => {
  const html = draw(<Backings doc={doc} facts={facts} axis={axis} left={100} />);
  expect(html).toContain("Organ");
  expect(html).toContain("preparing…");
});
