import { expect, test } from "vitest";
import { type Glide, Gliding, glidesTo } from "./glide";

/** Follows a line, reported every few ms; reports how often it was set and how far it was off at most. */
function follow(xAt: (ms: number) => number, ms: number, { seen = xAt, from = 0, every = 1000 / 60 } = {}) {
  const g = new Gliding();
  let glide: Glide | null = null;
  let sets = 0;
  let off = 0;
  for (let now = 0; now < ms; now += every) {
    const next = g.at(seen(now), now);
    if (next) {
      glide = next;
      sets++;
    }
    if (glide && now >= from) off = Math.max(off, Math.abs(glidesTo(glide, now) - xAt(now)));
  }
  return { sets, off };
}

test("a line that moves evenly is set a few times, and is right", () => {
  // 120 pixels a second, known in steps of 5 ms
  const { sets, off } = follow((ms) => 0.12 * Math.floor(ms / 5) * 5, 10_000);
  expect(off).toBeLessThanOrEqual(2);
  expect(sets).toBeLessThan(40);
});

test("a line that goes round is there in the same frame", () => {
  const { sets, off } = follow((ms) => (0.12 * ms) % 300, 10_000);
  expect(off).toBeLessThanOrEqual(1);
  expect(sets).toBeLessThan(100);
});

test("a line that moves fast and is seen unsteadily glides on, within 8 ms of where it is", () => {
  // A bar on a wide screen: 480 pixels a second; blocks leave the browser in bursts of 21 ms.
  const xAt = (ms: number) => 0.48 * ms;
  const seen = (ms: number) => xAt(Math.ceil(ms / 21.3) * 21.3);
  const { sets, off } = follow(xAt, 10_000, { seen, from: 600, every: 10.7 });
  expect(sets).toBeLessThan(50);
  expect(off).toBeLessThan(0.48 * (21.3 + 8));
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
