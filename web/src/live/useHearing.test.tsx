// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { monitor, useMonitor } from "./monitor";
import { useHearing } from "./useHearing";

let begun = () => {};
let stops = 0;

beforeEach(() => {
  vi.useFakeTimers();
  stops = 0;
  vi.spyOn(monitor, "study").mockImplementation(async (_how, then = () => {}) => {
    begun = then;
    useMonitor.setState({ studying: true, playing: false });
    return true;
  });
  vi.spyOn(monitor, "stop").mockImplementation(() => {
    stops++;
    useMonitor.setState({ studying: false, playing: false });
  });
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.restoreAllMocks();
  useMonitor.setState({ studying: false, playing: false });
});

const pass = (ms: number) => act(() => vi.advanceTimersByTime(ms));

test("what is heard once is counted from when it sounds, however long it takes to be made", () => {
  const { result } = renderHook(useHearing);
  act(() => result.current.hear("kick", {}, 0.5));
  expect(result.current.heard).toBe("kick");
  pass(5000);
  expect(stops, "it is still being made").toBe(0);
  begun();
  pass(600);
  expect(stops).toBe(0);
  pass(200);
  expect(stops).toBe(1);
  expect(result.current.heard).toBe("");
});

test("what plays by then is not ended by what was heard before", () => {
  const { result, unmount } = renderHook(useHearing);
  act(() => result.current.hear("kick", {}, 0.5));
  begun();
  act(() => useMonitor.setState({ studying: false, playing: true }));
  pass(1000);
  expect(stops, "the groove was begun").toBe(0);
  act(() => result.current.hear("kick", {}, 0.5));
  unmount();
  expect(stops, "it ends with its view").toBe(1);
  begun();
  pass(1000);
  expect(stops, "a word that comes late changes nothing").toBe(1);
});

test("without an end it goes round until it is stopped", () => {
  const { result } = renderHook(useHearing);
  act(() => result.current.hear("snare", {}));
  begun();
  pass(60_000);
  expect(stops).toBe(0);
  act(() => result.current.stop());
  expect(stops).toBe(1);
});
