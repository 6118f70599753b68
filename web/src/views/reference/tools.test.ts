import { expect, test } from "vitest";
import { tappedTempo } from "./Tools";

test("taps give a tempo once there are enough, whatever one late tap does", () => {
  expect(tappedTempo([0, 500, 1000])).toBeNull();
  expect(tappedTempo([0, 500, 1000, 1500])).toBeCloseTo(120);
  expect(tappedTempo([0, 600, 1200, 1950, 2400, 3000])).toBeCloseTo(100);
});
