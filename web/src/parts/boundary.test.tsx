// @vitest-environment jsdom
import { act } from "react";
import { createRoot } from "react-dom/client";
import { expect, test, vi } from "vitest";
import { Boundary } from "./Boundary";

let broken = true;

function View() {
  if (broken) throw new Error("no such row");
  return <p>fine</p>;
}

test("a view that fails says so, can be tried again, and leaves the next one alone", async () => {
  vi.spyOn(console, "error").mockImplementation(() => {});
  const box = document.createElement("div");
  const root = createRoot(box);
  const show = (of: string) =>
    act(async () =>
      root.render(
        <Boundary of={of} name="Mix">
          <View />
        </Boundary>,
      ),
    );
  await show("mix");
  expect(box.textContent).toContain("Mix cannot be shown");
  expect(box.textContent).toContain("no such row");
  broken = false;
  await act(async () => box.querySelector("button")?.click());
  expect(box.textContent).toBe("fine");
  broken = true;
  await show("mix");
  expect(box.textContent).toContain("cannot be shown");
  broken = false;
  await show("groove");
  expect(box.textContent).toBe("fine");
});
