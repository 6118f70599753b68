import { expect, test, vi } from "vitest";
import { gestures, type Key, keyList, placeNames } from "./list";

vi.stubGlobal("navigator", { platform: "Linux" });
const { keyOf } = await import("./useKeys");

const press = (key: string, mods: string[] = [], code = "") =>
  ({ key, code, getModifierState: (m: string) => mods.includes(m) }) as unknown as KeyboardEvent;

test("keys are named by what is pressed, modifiers and all", () => {
  expect(keyOf("everywhere", press(" ", [], "Space"))).toBe("play");
  expect(keyOf("everywhere", press("z", ["Control"]))).toBe("undo");
  expect(keyOf("everywhere", press("Z", ["Control", "Shift"]))).toBe("redo");
  expect(keyOf("everywhere", press("z"))).toBeNull();
  expect(keyOf("everywhere", press("?", ["Shift"]))).toBe("help");
  expect(keyOf("groove", press("ArrowLeft"))).toBe("cursor");
  expect(keyOf("groove", press("ArrowLeft", ["Shift"]))).toBe("reach");
  expect(keyOf("groove", press("ArrowLeft", ["Alt", "Shift"]))).toBe("nudge");
  expect(keyOf("groove", press("ArrowLeft", ["Control"]))).toBe("move");
  expect(keyOf("groove", press("A", ["Shift"]))).toBe("all");
});

test("no key means two things where it can be pressed", () => {
  const everywhere = ["everywhere", "time"] as const;
  for (const more of [["groove"], ["reference", "listening", "tapping"], ["overview"]] as const) {
    const all = [...everywhere, ...more].flatMap((p) =>
      Object.values<Key>(keyList[p]).flatMap((k) => k.keys),
    );
    expect(new Set(all).size, all.join(" ")).toBe(all.length);
  }
});

test("the list says something of every key", () => {
  for (const [place, keys] of Object.entries(keyList)) {
    expect(placeNames).toHaveProperty(place);
    for (const k of Object.values<Key>(keys)) expect(k.does.length, k.shown).toBeGreaterThan(3);
  }
  expect(Object.keys(gestures).every((p) => p in keyList)).toBe(true);
});
