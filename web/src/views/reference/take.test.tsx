// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { monitor } from "../../live/monitor";
import { useTake } from "./useTake";

let begin: (heard: boolean) => void = () => {};
const stop = vi.fn();

beforeEach(() => {
  stop.mockClear();
  monitor.watch = null;
  vi.spyOn(monitor, "study").mockImplementation(() => new Promise((done) => (begin = done)));
  vi.spyOn(monitor, "stop").mockImplementation(stop);
  vi.spyOn(monitor, "strike").mockResolvedValue();
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const how = { tempo: 120, beats: 4, bars: 1, late: 0, from: "pads", voices: [] };
const report = (position: number) => ({ studying: true, position }) as never;

test("strokes are counted from the click as it was when they fell", async () => {
  const { result } = renderHook(() => useTake(how));
  act(() => void result.current.record());
  await act(async () => begin(true));
  // 3 bars of 2 s; the sound stops for 130 ms at 3 s, the click is late from there on.
  const clock = vi.spyOn(performance, "now");
  for (let at = 0; at < 4000; at += 10) {
    const heard = at < 3000 ? at : at - 130;
    clock.mockReturnValue(at);
    act(() => monitor.watch?.(report(heard / 6000), at));
    if (at === 2000 || at === 3630) act(() => result.current.strike({ family: "kick", velocity: 100, at }));
  }
  clock.mockReturnValue(4200);
  act(() => monitor.watch?.(report(4070 / 6000), 4200));
  await waitFor(() => expect(result.current.recording).toBe(false));
  expect(result.current.hits.map((h) => h.time_s)).toEqual([expect.closeTo(0, 6), expect.closeTo(1.5, 6)]);
});

test("strokes of a page that was held, which come after the report of the end, count", async () => {
  const { result } = renderHook(() => useTake(how));
  act(() => void result.current.record());
  await act(async () => begin(true));
  const clock = vi.spyOn(performance, "now");
  for (const at of [0, 10, 20, 4200]) {
    clock.mockReturnValue(at);
    act(() => monitor.watch?.(report(at / 6000), at));
  }
  act(() => result.current.strike({ family: "kick", velocity: 100, at: 3500 }));
  act(() => result.current.strike({ family: "kick", velocity: 100, at: 4010 })); // after the end
  await waitFor(() => expect(result.current.recording).toBe(false));
  expect(result.current.hits.map((h) => h.time_s)).toEqual([expect.closeTo(1.5, 6)]);
});

test("a take that is given up before the click begins leaves nothing behind", async () => {
  const { result, unmount } = renderHook(() => useTake(how));
  act(() => void result.current.record());
  unmount();
  stop.mockClear();
  await act(async () => begin(true));
  expect(monitor.watch).toBeNull();
  expect(stop, "what began after all is stopped").toHaveBeenCalledOnce();
});

test("without sound nothing is recorded", async () => {
  const { result } = renderHook(() => useTake(how));
  act(() => void result.current.record());
  await act(async () => begin(false));
  expect(result.current.recording).toBe(false);
  expect(monitor.watch).toBeNull();
});
