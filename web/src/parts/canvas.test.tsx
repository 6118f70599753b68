// @vitest-environment jsdom
import { act, cleanup, render } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

type Seen = (entries: { target: Element; isIntersecting: boolean }[]) => void;
const observers: Seen[] = []; // of what is in sight, of what is near
vi.stubGlobal(
  "IntersectionObserver",
  class {
    constructor(seen: Seen) {
      observers.push(seen);
    }
    observe() {}
    unobserve() {}
  },
);
HTMLCanvasElement.prototype.getContext = (() => ({
  setTransform: () => {},
  clearRect: () => {},
})) as unknown as HTMLCanvasElement["getContext"];
const { Canvas } = await import("./Canvas");

afterEach(cleanup);

const sees = (container: HTMLElement, where: "in sight" | "near" | "far") => {
  const target = container.querySelector("canvas");
  if (!target) return;
  act(() => {
    observers[0]?.([{ target, isIntersecting: where === "in sight" }]);
    observers[1]?.([{ target, isIntersecting: where !== "far" }]);
  });
};

test("a canvas is painted at once, and again when its painter changes", () => {
  const painted: string[] = [];
  const { rerender } = render(<Canvas width={10} height={10} paint={() => painted.push("a")} />);
  rerender(<Canvas width={10} height={10} paint={() => painted.push("b")} />);
  expect(painted).toEqual(["a", "b"]);
});

test("a canvas out of sight is painted when it comes near, once and as it is then", () => {
  const painted: string[] = [];
  const { container, rerender } = render(<Canvas width={10} height={10} paint={() => painted.push("a")} />);
  sees(container, "far");
  for (const name of ["b", "c"]) rerender(<Canvas width={10} height={10} paint={() => painted.push(name)} />);
  expect(painted).toEqual(["a"]);
  sees(container, "near");
  expect(painted).toEqual(["a", "c"]);
  sees(container, "far");
  sees(container, "in sight");
  expect(painted, "nothing has changed meanwhile").toEqual(["a", "c"]);
});

test("a canvas near what is in sight is painted at rest, and at once when it comes into sight", () => {
  vi.useFakeTimers();
  const painted: string[] = [];
  const { container, rerender } = render(<Canvas width={10} height={10} paint={() => painted.push("a")} />);
  const show = (name: string) => rerender(<Canvas width={10} height={10} paint={() => painted.push(name)} />);
  sees(container, "near");
  show("b");
  vi.advanceTimersByTime(50);
  show("c");
  expect(painted).toEqual(["a"]);
  vi.advanceTimersByTime(1000);
  expect(painted).toEqual(["a", "c"]);
  show("d");
  sees(container, "in sight");
  expect(painted).toEqual(["a", "c", "d"]);
  vi.advanceTimersByTime(1000);
  expect(painted, "once").toEqual(["a", "c", "d"]);
  vi.useRealTimers();
});

test("a canvas is as large as the screen is sharp", () => {
  vi.stubGlobal("devicePixelRatio", 2);
  const { container } = render(<Canvas width={30} height={10} paint={() => {}} />);
  const canvas = container.querySelector("canvas");
  expect([canvas?.width, canvas?.height, canvas?.style.width]).toEqual([60, 20, "30px"]);
});
