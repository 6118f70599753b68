// @vitest-environment jsdom
import { act, cleanup, render } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { monitor, useMonitor } from "../live/monitor";
import { Playhead } from "./Playhead";

let set: { from: string; to: string }[] = [];
let cancelled = 0;

beforeEach(() => {
  set = [];
  cancelled = 0;
  vi.useFakeTimers();
  Element.prototype.animate = ((frames: { transform: string }[]) => {
    set.push({ from: frames[0]?.transform ?? "", to: frames[1]?.transform ?? "" });
    return { cancel: () => cancelled++ };
  }) as unknown as Element["animate"];
  useMonitor.setState({ playing: true, studying: false });
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  useMonitor.setState({ playing: false });
});

/** Lets ms pass, with reports of where the groove is 94 times a second. */
function reports(ms: number, tick: () => number, piece = false) {
  for (let at = 0; at < ms; at += 32 / 3) {
    monitor.report = { ...monitor.report, playing: true, piece, position: tick() };
    monitor.reportAt = performance.now();
    act(() => vi.advanceTimersByTime(32 / 3));
  }
}

test("the playhead glides ahead at the speed of the sound", () => {
  render(<Playhead toX={(tick) => tick / 10} />);
  reports(2000, () => performance.now());
  expect(set.length).toBeLessThan(20);
  const last = set.at(-1);
  const [from, to] = [last?.from, last?.to].map((t) => Number(/\((.*)px\)/.exec(t ?? "")?.[1]));
  expect((to ?? 0) - (from ?? 0)).toBeCloseTo(100, 0); // 0.1 pixels a millisecond, for a second
});

test("a view that is scrolled a little takes the playhead along at once, and it glides on", () => {
  const { rerender } = render(<Playhead toX={(tick) => tick / 10} />);
  const from = () => Number(/\((.*)px\)/.exec(set.at(-1)?.from ?? "")?.[1]);
  const to = () => Number(/\((.*)px\)/.exec(set.at(-1)?.to ?? "")?.[1]);
  reports(2000, () => performance.now());
  rerender(<Playhead toX={(tick) => tick / 10 - 9} />);
  reports(11, () => performance.now());
  expect(from()).toBeCloseTo(performance.now() / 10 - 9, -0.5);
  expect(to() - from()).toBeCloseTo(100, 0);
});

test("a playhead out of sight is taken away, and comes back", () => {
  render(<Playhead toX={(tick) => (tick < 100 ? tick : null)} />);
  reports(50, () => 50);
  const before = set.length;
  reports(50, () => 500);
  expect(cancelled).toBe(before);
  expect(set.length).toBe(before);
  reports(50, () => 20);
  expect(set.at(-1)?.from).toBe("translateX(20px)");
});

test("the groove's playhead stays away while the arrangement plays, and the other way round", () => {
  render(<Playhead toX={(tick) => tick} />);
  reports(50, () => 50, true);
  expect(set).toEqual([]);
  cleanup();
  render(<Playhead piece toX={(tick) => tick} />);
  reports(50, () => 50, true);
  expect(set.length).toBeGreaterThan(0);
});

test("with the end of the sound the playhead is gone", () => {
  const { container } = render(<Playhead toX={(tick) => tick} />);
  reports(50, () => 50);
  act(() => useMonitor.setState({ playing: false }));
  expect(container.innerHTML).toBe("");
  expect(cancelled).toBe(set.length);
});
