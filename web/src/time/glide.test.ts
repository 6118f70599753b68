import { expect, test } from "vitest";
import { type Glide, Gliding, glidesTo } from "./glide";

/** Follows a line frame by frame; reports how often it was set and how far it was off at most. */
function follow(xAt: (ms: number) => number, ms: number) {
  const g = new Gliding();
  let glide: Glide | null = null;
  let sets = 0;
  let off = 0;
  for (let now = 0; now < ms; now += 1000 / 60) {
    const x = xAt(now);
    const next = g.at(x, now);
    if (next) {
      glide = next;
      sets++;
    }
    if (glide) off = Math.max(off, Math.abs(glidesTo(glide, now) - x));
  }
  return { sets, off };
}

test("a line that moves evenly is set a few times, and is right", () => {
  // 120 pixels a second, known in steps of 5 ms
  const { sets, off } = follow((ms) => 0.12 * Math.floor(ms / 5) * 5, 10_000);
  expect(off).toBeLessThanOrEqual(1);
  expect(sets).toBeLessThan(40);
});

test("a line that goes round is there in the same frame", () => {
  const { sets, off } = follow((ms) => (0.12 * ms) % 300, 10_000);
  expect(off).toBeLessThanOrEqual(1);
  expect(sets).toBeLessThan(100);
});

test("a line that stands is set once a second", () => {
  expect(follow(() => 80, 5000).sets).toBeLessThan(8);
});

test("what was out of sight begins anew", () => {
  const g = new Gliding();
  for (let now = 0; now < 500; now += 16) g.at(now / 10, now);
  g.stop();
  expect(g.at(7, 600)).toEqual({ x: 7, since: 600, speed: 0 });
});
