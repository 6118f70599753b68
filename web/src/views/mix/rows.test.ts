import { expect, test } from "vitest";
import type { Document } from "../../api/client";
import { busesFor, type Effect, findEffect, freeEffect, placeOf, rowsOf } from "./rows";

const effect = (id: string, paths: Effect[][] = []): Effect =>
  ({
    id,
    kind: id.replace(/\d+$/, ""),
    off: false,
    values: {},
    key: "",
    shape: "",
    paths,
  }) as unknown as Effect;

const chain = [
  effect("drive1"),
  effect("split1", [[effect("clip1"), effect("parallel1", [[effect("drive3")]])], [effect("crush1")]]),
  effect("trim1"),
];

const doc = {
  kit: {
    voices: [
      {
        id: "kick",
        name: "Kick",
        family: "kick",
        level_db: -2,
        pan: 0,
        mute: false,
        chain,
        to: "drums",
        sends: [],
        like: "",
        own: {},
      },
      {
        id: "snare",
        name: "Snare",
        family: "snare",
        level_db: 0,
        pan: 0.2,
        mute: true,
        chain: [],
        to: "",
        sends: [],
        like: "kick",
        own: { "drive1/amount_percent": 12 },
      },
    ],
  },
  mix: {
    buses: ["drums", "tops", "all"].map((id) => ({
      id,
      name: id,
      level_db: 0,
      pan: 0,
      mute: false,
      chain: [],
      to: "",
      sends: [],
    })),
    out: { level_db: -3, chain: [effect("ceiling1")] },
  },
} as unknown as Document;

test("rows are voices, buses and the output, in that order", () => {
  const rows = rowsOf(doc);
  expect(rows.map((r) => r.row)).toEqual(["kick", "snare", "bus:drums", "bus:tops", "bus:all", "out"]);
  expect(rows.map((r) => r.kind)).toEqual(["voice", "voice", "bus", "bus", "bus", "out"]);
  expect(rows[1]).toMatchObject({ like: "kick", own: 1, mute: true, pan: 0.2 });
  expect(rows[5]).toMatchObject({ name: "Output", level: -3, pan: null });
});

test("effects are found within effects", () => {
  expect(findEffect(chain, "drive3")?.kind).toBe("drive");
  expect(findEffect(chain, "gate1")).toBeNull();
});

test("the list that an effect stands in is named", () => {
  expect(placeOf(chain, "trim1")).toMatchObject({ at: 2, in: "", path: 0 });
  expect(placeOf(chain, "crush1")).toMatchObject({ at: 0, in: "split1", path: 1 });
  expect(placeOf(chain, "drive3")).toMatchObject({ at: 0, in: "parallel1", path: 0 });
  expect(placeOf(chain, "gate1")).toBeNull();
});

test("a new effect's id is free in all of the row", () => {
  const kick = rowsOf(doc)[0];
  if (!kick) throw new Error("no row");
  expect(freeEffect(kick, "drive")).toBe("drive2");
  expect(freeEffect(kick, "clip")).toBe("clip2");
  expect(freeEffect(kick, "gate")).toBe("gate1");
});

test("buses go to those below only", () => {
  expect(busesFor(doc, "kick").map((b) => b.id)).toEqual(["drums", "tops", "all"]);
  expect(busesFor(doc, "bus:tops").map((b) => b.id)).toEqual(["all"]);
  expect(busesFor(doc, "bus:all")).toEqual([]);
});
