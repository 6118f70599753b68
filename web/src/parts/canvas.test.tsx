// @vitest-environment jsdom
import { act, cleanup, render } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

let report: (entries: { target: Element; isIntersecting: boolean }[]) => void = () => {};
vi.stubGlobal(
  "IntersectionObserver",
  class {
    constructor(f: typeof report) {
      report = f;
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

const sees = (container: HTMLElement, isIntersecting: boolean) => {
  const target = container.querySelector("canvas");
  if (target) act(() => report([{ target, isIntersecting }]));
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
  sees(container, false);
  for (const name of ["b", "c"]) rerender(<Canvas width={10} height={10} paint={() => painted.push(name)} />);
  expect(painted).toEqual(["a"]);
  sees(container, true);
  expect(painted).toEqual(["a", "c"]);
  sees(container, false);
  sees(container, true);
  expect(painted, "nothing has changed meanwhile").toEqual(["a", "c"]);
});

test("a canvas is as large as the screen is sharp", () => {
  vi.stubGlobal("devicePixelRatio", 2);
  const { container } = render(<Canvas width={30} height={10} paint={() => {}} />);
  const canvas = container.querySelector("canvas");
  expect([canvas?.width, canvas?.height, canvas?.style.width]).toEqual([60, 20, "30px"]);
});
