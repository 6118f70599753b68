// @vitest-environment jsdom
import { act, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { State } from "./api/client";
import { Boundary } from "./parts/Boundary";

const state = { id: "p" } as unknown as State;
let isThere = false;
vi.mock("./views/mix/Mix", () => ({ Mix: () => <p>the mix</p> }));
vi.mock("./views/export/Export", () => {
  if (!isThere) throw new Error("no network");
  return { Export: () => <p>the export</p> };
});

test("a view that was loaded is shown with the first paint", async () => {
  const { load, ScreenOf } = await import("./screens");
  await load("mix");
  render(<ScreenOf view="mix" state={state} />);
  expect(screen.getByText("the mix")).toBeTruthy();
});

test("a view whose code does not come is reported, and loaded by Try again", async () => {
  const { ScreenOf } = await import("./screens");
  vi.spyOn(console, "error").mockImplementation(() => {});
  render(
    <Boundary of="p/export" name="Export">
      <ScreenOf view="export" state={state} />
    </Boundary>,
  );
  expect(await screen.findByText(/Export cannot be shown/)).toBeTruthy();
  isThere = true;
  vi.resetModules();
  await act(async () => screen.getByRole("button", { name: "Try again" }).click());
  expect(await screen.findByText("the export")).toBeTruthy();
});
