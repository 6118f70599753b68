import { beforeAll, expect, test, vi } from "vitest";
import { paintGrid, paintStick, rimOf, type Stick } from "./sticks";

/** A pen that notes what is drawn. */
function noting() {
  const notes: string[] = [];
  const state: Record<string, unknown> = {};
  const pen = new Proxy(state, {
    get: (_, name: string) =>
      name in state
        ? state[name]
        : (...args: unknown[]) => notes.push(`${name} ${args.flat().join(" ")}`.trim()),
    set: (_, name: string, value) => {
      state[name] = value;
      notes.push(`${name}=${value}`);
      return true;
    },
  }) as unknown as CanvasRenderingContext2D;
  return { pen, notes };
}

/** What was drawn to be copied. */
let stamped: string[] = [];

beforeAll(() => {
  const createElement = () => {
    const { pen, notes } = noting();
    stamped = notes;
    return { getContext: () => pen };
  };
  vi.stubGlobal("document", { documentElement: {}, createElement });
  vi.stubGlobal("getComputedStyle", () => ({ getPropertyValue: (name: string) => ` ${name.slice(2)} ` }));
});

const stick: Stick = { x: 100, lean: 7, velocity: 127, colour: "var(--kick)", offset: 9 };

test("a stick leans from its foot to its head", () => {
  const { pen, notes } = noting();
  paintStick(pen, stick, 58);
  expect(notes.filter((n) => n.includes("To "))).toEqual([
    "moveTo 98.8 53",
    "lineTo 101.2 53",
    "lineTo 108.2 9",
    "lineTo 105.8 9",
  ]);
  expect(notes).toContain("fillStyle=kick");
  expect(
    notes.some((n) => /^drawImage .* 100 2 15 15$/.test(n)),
    "its head about 107.5 9.5, on whole pixels",
  ).toBe(true);
  expect(stamped).toContain("strokeStyle=late");
  expect(stamped).toContain("arc 0 0 5.2 0 6.283185307179586");
  expect(
    notes.some((n) => n.startsWith("arc 107 9 8")),
    "no ring where it is not selected",
  ).toBe(false);
});

test("covered, hollow, selected and small ones differ", () => {
  const draw = (more: Partial<Stick>) => {
    const { pen, notes } = noting();
    stamped = [];
    paintStick(pen, { ...stick, ...more }, 58);
    return [...notes, ...stamped];
  };
  expect(draw({ covered: true })).toContain("setLineDash 3.5 3");
  expect(rimOf({ ...stick, covered: true }), "without a rim").toBe("var(--kick)");
  expect(rimOf({ ...stick, offset: -4 })).toBe("var(--early)");
  expect(rimOf({ ...stick, offset: 0.2 })).toBe("var(--kick)");
  expect(draw({ hollow: true })).not.toContain("fill");
  expect(draw({ hollow: true })).toContain("strokeStyle=ref");
  expect(draw({ selected: true }).some((n) => n.startsWith("arc 107 9 8"))).toBe(true);
  expect(draw({ small: true }).some((n) => n.startsWith("arc 0 0 3.2"))).toBe(true);
  expect(draw({ faint: true })).toContain("globalAlpha=0.45");
});

test("a head is drawn once and copied, another one for another rim", () => {
  const drawn: string[][] = [];
  for (const offset of [-9, -9, 0, -9]) {
    const { pen } = noting();
    stamped = [];
    paintStick(pen, { ...stick, colour: "var(--rim)", offset }, 58);
    drawn.push(stamped);
  }
  expect(drawn.map((d) => d.length > 0)).toEqual([true, false, true, false]);
});

test("bars stand over beats, beats over steps", () => {
  const { pen, notes } = noting();
  paintGrid(
    pen,
    [
      { x: 1, rank: 0 },
      { x: 2, rank: 2 },
      { x: 3, rank: 1 },
    ],
    58,
  );
  expect(notes.filter((n) => n.startsWith("moveTo"))).toEqual(["moveTo 2 5", "moveTo 3 5", "moveTo 1 5"]);
});
