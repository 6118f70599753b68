import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Analysis, HeardHit, Schemas } from "../../api/client";
import { axisOf } from "../../time/axis";
import { HitRow } from "./HitRow";

const hit = (id: string, more: Partial<HeardHit>): HeardHit => ({
  id,
  time_s: 1,
  family: "hat_closed",
  velocity: 80,
  confidence: 1,
  bar: 0,
  step: 0,
  offset_ms: 8,
  within_ticks: 0,
  grace: false,
  key: null,
  covered: false,
  unnamed: false,
  ...more,
});

const draw = (hits: HeardHit[], rolls: Schemas["Roll"][] = []) =>
  renderToStaticMarkup(
    <HitRow
      analysis={{ left_out: [], grid: null, rolls } as unknown as Analysis}
      family="hat_closed"
      hits={hits}
      time={axisOf({ from: 0, to: 4 }, 400, 0)}
      width={400}
      scale={1}
      selected=""
      onSelect={() => {}}
      onAdd={() => {}}
      onDrop={() => {}}
      onMove={() => {}}
      onWeigh={() => {}}
    />,
  );

test("the hits on show are a list that says what cannot be seen", () => {
  const html = draw([
    hit("r1", {}),
    hit("r2", { covered: true, time_s: 2 }),
    hit("r3", { grace: true, time_s: 3 }),
    hit("r4", { time_s: 9 }),
  ]);
  expect(html.match(/data-hit=/g), "what is not on show is not listed").toHaveLength(3);
  expect(html.match(/onset hidden by other sound/g)).toHaveLength(1);
  expect(html.match(/grace note/g)).toHaveLength(1);
  expect(html).toMatch(/>1<\/span> covered/);
});

test("a row says how many hits are unsure or covered, and nothing of either where none is", () => {
  expect(draw([hit("r1", {})])).toContain(", sure");
  expect(draw([hit("r1", {})])).not.toContain("covered");
  const both = draw([hit("r1", { confidence: 0.6 }), hit("r2", { covered: true })]);
  expect(both).toMatch(/>1<\/span> unsure/);
  expect(both).toMatch(/>1<\/span> covered/);
});

test("a bracket names the note value of a roll, over the part on show of its own family", () => {
  const roll = {
    family: "hat_closed" as const,
    per_quarter: 6,
    bar: 0,
    from_s: 3,
    to_s: 5,
    hits: ["a", "b", "c"],
    rise: -20,
  };
  const html = draw([hit("a", {})], [roll, { ...roll, family: "snare" }, { ...roll, from_s: 6, to_s: 7 }]);
  expect(html.match(/data-roll/g)).toHaveLength(1);
  expect(html).toContain(">1/16T<");
  expect(html).toContain("M300 16 V13 H400 V16"); // the stretch ends at 4 s
  expect(html).toContain("Roll of 3");
  expect(html).toContain("velocity −20");
});
