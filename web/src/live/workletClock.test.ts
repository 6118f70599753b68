import { expect, test } from "vitest";
import { WorkletClock } from "./workletClock";

test("a report that comes late was made when it was made", () => {
  const clock = new WorkletClock();
  const late = [2, 3, 150, 2, 90, 400, 5];
  late.forEach((by, i) => {
    const made = i * 10;
    expect(clock.at(5_000_000 + made, 700 + made + by)).toBeCloseTo(700 + made + 2, 0);
  });
});

test("a computer's clock that is set, or drifts, is followed", () => {
  const clock = new WorkletClock();
  clock.at(1_000_000, 500);
  expect(clock.at(900_000, 600), "set back").toBe(600);
  expect(clock.at(990_010, 610), "set ahead").toBe(610);
  const drift = new WorkletClock();
  let at = 0;
  for (let i = 0; i < 100_000; i++) at = drift.at(i * 10, i * 10 + i * 0.0005 + 2);
  expect(Math.abs(at - (99_999 * 10 + 50 + 2))).toBeLessThan(1);
});
