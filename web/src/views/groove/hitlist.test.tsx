// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";
import type { Hit } from "../../api/client";
import { show } from "../../test/harness";
import { HitList, inWords } from "./HitList";
import type { Placed } from "./layout";

const placed = (i: number, more: Partial<Hit> = {}): Placed => ({
  hit: { id: `h${i}`, tick: 240 * i, velocity: 100, nudge_ms: 0, semitones: 0, ...more },
  offset: 12.34,
  x: 10 * i,
});

test("a hit in words: where, how late, how loud, and what it has of its own", () => {
  expect(inWords(placed(5), 4)).toBe("1.2.2  +12.3 ms  velocity 100");
  expect(inWords(placed(0, { semitones: -2 }), 4)).toContain("−2.0 st");
  expect(inWords(placed(0, { of: 2, times: 1 }), 4)).toContain("1 of 2 times");
  expect(inWords(placed(0, { of: 1, times: 0 }), 4)).toContain("dropped");
  expect(inWords(placed(0, { sound: "rim", reverse: true }), 4)).toContain("sound of rim  reversed");
});

test("the hits on show are listed where their heads stand, and which are selected", () => {
  show(<HitList shown={[placed(0), placed(1)]} beats={4} selected={new Set(["h1"])} name="Kick" />);
  const items = within(screen.getByRole("list", { name: "Hits of Kick on show" })).getAllByRole("listitem");
  expect(items.map((i) => i.textContent?.endsWith(", selected"))).toEqual([false, true]);
  expect(items[1]?.style.marginLeft).toBe("5px");
});

test("of thousands of hits the first are listed", () => {
  const many = Array.from({ length: 3000 }, (_, i) => placed(i));
  show(<HitList shown={many} beats={4} selected={new Set()} name="Hat" />);
  expect(screen.getAllByRole("listitem")).toHaveLength(64);
});
