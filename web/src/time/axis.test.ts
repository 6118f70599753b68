import { expect, test } from "vitest";
import { axisOf, firstAt, following, held, scrolled, sighted, zoomed } from "./axis";

const limits = { from: 0, to: 64, least: 0.25 };

test("pixels and moments belong together", () => {
  const a = axisOf({ from: 8, to: 12 }, 428, 14);
  expect(a.x(8)).toBe(14);
  expect(a.x(12)).toBe(414);
  expect(a.per).toBe(100);
  for (const t of [8, 9.37, 12]) expect(a.at(a.x(t))).toBeCloseTo(t, 12);
});

test("a view keeps within its limits", () => {
  expect(held({ from: -3, to: 1 }, limits)).toEqual({ from: 0, to: 4 });
  expect(held({ from: 62, to: 66 }, limits)).toEqual({ from: 60, to: 64 });
  expect(held({ from: -9, to: 99 }, limits)).toEqual({ from: 0, to: 64 });
  expect(held({ from: 5, to: 5.01 }, limits)).toEqual({ from: 5, to: 5.25 });
  expect(held({ from: 0, to: 9 }, { from: 0, to: 0.1, least: 1 }), "less than the least").toEqual({
    from: 0,
    to: 0.1,
  });
});

test("zooming leaves the moment under the pointer where it is", () => {
  const before = { from: 8, to: 24 };
  const after = zoomed(before, 2, 12, limits);
  expect(after).toEqual({ from: 10, to: 18 });
  const x = (v: typeof before) => axisOf(v, 500, 14).x(12);
  expect(x(after)).toBeCloseTo(x(before), 9);
  expect(zoomed(before, 1e6, 12, limits).to - zoomed(before, 1e6, 12, limits).from).toBeCloseTo(0.25, 12);
  expect(zoomed(before, 1e-6, 12, limits)).toEqual({ from: 0, to: 64 });
  expect(scrolled(before, 100, limits)).toEqual({ from: 48, to: 64 });
});

test("what plays is followed by the page, and gone back to", () => {
  const view = { from: 8, to: 12 };
  expect(following(view, 10, limits), "in sight").toBe(view);
  const next = following(view, 11.9, limits);
  expect(next.from).toBeCloseTo(11.66, 9);
  expect(following(next, 11.95, limits)).toBe(next);
  expect(following(next, 0, limits).from, "the loop begins anew").toBe(0);
});

test("a cursor that is moved out of sight is brought back, from either side", () => {
  const view = { from: 8, to: 12 };
  expect(sighted(view, 8, limits)).toBe(view);
  expect(sighted(view, 11.99, limits)).toBe(view);
  for (const t of [0, 7.75, 12, 30, 63.75]) {
    const next = sighted(view, t, limits);
    expect(next.to - next.from).toBeCloseTo(4, 9);
    expect(next.from, `${t}`).toBeLessThanOrEqual(t);
    expect(next.to, `${t}`).toBeGreaterThan(t);
  }
  expect(sighted(view, 7.75, limits).from, "what lies before it is seen").toBeLessThan(5);
});

test("search finds the first that is on show", () => {
  const list = [1, 2, 2, 5, 9];
  const naive = (t: number) => {
    const i = list.findIndex((v) => v >= t);
    return i < 0 ? list.length : i;
  };
  for (const t of [-1, 1, 1.5, 2, 3, 9, 10]) expect(firstAt(list, (v) => v, t)).toBe(naive(t));
});
