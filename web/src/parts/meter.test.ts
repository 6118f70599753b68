import { expect, test } from "vitest";
import { Held } from "./Meter";

test("the meter's bars rise at once and fall slowly; its peak stays for a while", () => {
  const h = new Held();
  h.take([1, 0.5], 1000);
  expect(h.bars[0]).toBe(0);
  expect(h.bars[1]).toBeCloseTo(-6.02, 2);
  h.take([0, 0], 1100);
  expect(h.bars[0]).toBeCloseTo(-4.5, 5); // 45 dB a second
  expect(h.peak).toBe(0);
  h.take([0.1, 0], 2400);
  expect(h.bars[0]).toBeCloseTo(-20, 5);
  expect(h.peak).toBe(0);
  h.take([0.01, 0.1], 2600);
  expect(h.peak).toBeCloseTo(-20, 5);
});

test("a meter at rest shows nothing, also of what comes softly after it", () => {
  const h = new Held();
  h.take([1, 1], 0);
  h.rest();
  expect(h.bars).toEqual([-48, -48]);
  h.take([0.01, 0], 10);
  expect(h.peak).toBeCloseTo(-40, 5);
});
