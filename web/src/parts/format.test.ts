import { expect, test } from "vitest";
import { clock, minutes, noteText, num, position, secondsOf } from "./format";
import { fittingScale, headY, velocityAt } from "./sticks";

test("numbers", () => {
  expect(num(-2.06, 1)).toBe("−2.1");
  expect(num(2, 1, true)).toBe("+2.0");
  expect(num(-0.01, 1, true)).toBe("0.0");
  expect(num(null)).toBe("–");
  expect(num(Number.NaN)).toBe("–");
});

test("notes: ISO 16, C4 = MIDI 60", () => {
  expect(noteText(440)).toBe("A4 0 ct");
  expect(noteText(43.654)).toBe("F1 0 ct");
  expect(noteText(46.2)).toBe("F♯1 −2 ct");
});

test("positions and clocks", () => {
  expect(position(0, 4)).toBe("1.1.1");
  expect(position(3840 + 960 + 240, 4)).toBe("2.2.2");
  expect(position(2880, 3)).toBe("2.1.1");
  expect(clock(63.5)).toBe("01:03.500");
});

test("sticks: height is velocity, both ways", () => {
  for (const v of [1, 40, 100, 127]) expect(velocityAt(headY(v, 58), 58)).toBe(v);
  expect(velocityAt(-50, 58)).toBe(127);
  expect(velocityAt(500, 58)).toBe(1);
});

test("the magnification keeps heads within about half a step", () => {
  expect(fittingScale(8, 160)).toBe(10);
  expect(fittingScale(40, 160)).toBe(2);
  expect(fittingScale(500, 160)).toBe(1);
});

test("times go both ways", () => {
  for (const [seconds, text] of [
    [0, "0:00"],
    [75.4, "1:15"],
    [3599.6, "1:00:00"],
    [7325, "2:02:05"],
  ] as const) {
    expect(minutes(seconds)).toBe(text);
    expect(secondsOf(text)).toBeCloseTo(Math.round(seconds));
  }
  expect(secondsOf("90")).toBe(90);
  expect(secondsOf(" 1:30.5 ")).toBe(90.5);
  for (const none of ["", "x", "1:-2", "1:2:3:4", "1:"]) expect(secondsOf(none)).toBeNull();
});
