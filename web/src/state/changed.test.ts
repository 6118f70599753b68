import { expect, test } from "vitest";
import type { State } from "../api/client";
import { changed } from "./changed";

const hit = (id: string, tick: number) => ({ id, tick, velocity: 100, nudge_ms: 0, semitones: 0 });

const before = {
  id: "p",
  version: 3,
  can_undo: false,
  can_redo: true,
  cycle_ticks: 3840,
  cycle_is_longer: false,
  notes: [],
  falls: [],
  document: {
    name: "Lap",
    groove: {
      lanes: [
        { voice: "kick", steps: 0, hits: [hit("h1", 0), hit("h2", 960)] },
        { voice: "hat", steps: 0, hits: [hit("h1", 0)] },
      ],
    },
  },
} as unknown as State;

const answer = {
  version: 4,
  can_undo: true,
  can_redo: false,
  cycle_is_longer: false,
  cycle_ticks: 3840,
  notes: ["so"],
};

test("only what changed is another object", () => {
  const after = changed(before, {
    ...answer,
    patch: [
      { op: "replace", path: "/document/groove/lanes/0/hits/1", value: hit("h2", 480) },
      { op: "add", path: "/document/groove/lanes/0/hits/2", value: hit("h3", 1200) },
      { op: "remove", path: "/document/groove/lanes/0/hits/0" },
    ],
  });
  const [kick, hat] = after?.document.groove.lanes ?? [];
  expect(kick?.hits.map((h) => h.tick)).toEqual([480, 1200]);
  expect(hat).toBe(before.document.groove.lanes[1]);
  expect(after).toMatchObject({ version: 4, can_undo: true, can_redo: false, notes: ["so"], id: "p" });
  expect(after).not.toHaveProperty("patch");
  expect(before.document.groove.lanes[0]?.hits.map((h) => h.tick)).toEqual([0, 960]);
});

test("a patch of another state is not taken in silence", () => {
  const path = "/document/groove/tracks/0/hits/1";
  expect(changed(before, { ...answer, patch: [{ op: "replace", path, value: 1 }] })).toBeNull();
});
