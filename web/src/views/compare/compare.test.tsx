// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { useApplying } from "../../state/applying";
import { comparison, projectOf, Refusal, serve, show } from "../../test/harness";
import { Compare } from "./Compare";
import { Matrix } from "./Matrix";

const state = projectOf();
const at = `/api/projects/${state.id}`;
const start = (more: Record<string, unknown> = {}) => {
  serve({
    [`GET ${at}/compare`]: comparison,
    [`GET ${at}/analysis`]: {},
    "GET /api/projects": { projects: [], size_bytes: 0 },
    ...more,
  });
  return show(<Compare state={state} />, state);
};

test("without a reference it asks for one", () => {
  serve({});
  const bare = projectOf({ references: [], active_reference: "" });
  show(<Compare state={bare} />, bare);
  expect(screen.getByText("Nothing to compare with yet")).toBeTruthy();
});

test("each group says how much of it lies outside, and shows its measures", async () => {
  const { user } = start();
  const tabs = await screen.findByRole("tablist", { name: "Measures" });
  expect(
    within(tabs)
      .getAllByRole("tab")
      .map((t) => t.textContent),
  ).toEqual(["Feel 8", "Hits 7", "Tone 8", "Levels 16"]);
  expect(screen.getByText(/39 of 71 values outside/)).toBeTruthy();
  await user.click(within(tabs).getByRole("tab", { name: /Tone/ }));
  expect(within(tabs).getByRole("tab", { name: /Tone/ }).getAttribute("aria-selected")).toBe("true");
  expect(screen.getByRole("columnheader", { name: /Brightness/ })).toBeTruthy();
});

test("the largest differences are said first, all of them by how far they lie", async () => {
  const { user } = start();
  const side = await screen.findByRole("complementary", { name: "What you would hear" });
  expect(within(side).getAllByRole("listitem")[0]?.textContent).toBe("Open hat: far too bright.");
  await user.click(within(side).getByText(/all 39, the largest first/));
  await user.click(within(side).getByRole("button", { name: "Kick: 278 cents too low." }));
  const tabs = screen.getByRole("tablist", { name: "Measures" });
  expect(
    within(tabs).getByRole("tab", { name: /Tone/ }).getAttribute("aria-selected"),
    "its group opens",
  ).toBe("true");
  expect(within(side).getByText(/46\.3 → 54\.3 Hz/)).toBeTruthy();
});

test("applying a group asks for what can be closed of it, all asks for everything", async () => {
  const apply = vi.fn(async () => undefined);
  useApplying.setState({ apply });
  const { user } = start();
  await user.click(await screen.findByRole("button", { name: "Apply all timing" }));
  const feel = comparison.rows.filter(
    (r) =>
      r.inside === false &&
      r.act !== "" &&
      comparison.columns.find((c) => c.id === r.column)?.group === "feel",
  );
  expect(apply).toHaveBeenCalledWith(
    state.id,
    feel.map((r) => r.id),
  );
  await user.click(screen.getByRole("button", { name: "Apply all" }));
  expect(apply).toHaveBeenLastCalledWith(state.id, []);
});

test("nothing can be applied while something is", async () => {
  useApplying.setState({ jobs: { [state.id]: { stage: "Kick", progress: 0.5 } as never } });
  start();
  expect((await screen.findByRole<HTMLButtonElement>("button", { name: "Apply all" })).disabled).toBe(true);
  expect(screen.getByText("Closing: Kick…")).toBeTruthy();
  useApplying.setState({ jobs: {} });
});

test("what cannot be compared says why", async () => {
  start({ [`GET ${at}/compare`]: new Refusal(409, "The reference is still being heard.") });
  expect(await screen.findByText("The reference is still being heard.")).toBeTruthy();
});

test("arrow keys go from cell to cell and leave out empty places", async () => {
  serve({});
  const columns = comparison.columns.filter((c) => ["lean", "scatter", "drift"].includes(c.id) && !c.whole);
  const rows = comparison.rows.filter((r) => r.family && columns.some((c) => c.id === r.column));
  const families = [...new Set(rows.flatMap((r) => r.family ?? []))];
  const onChoose = vi.fn();
  const { user } = show(
    <Matrix
      columns={columns}
      rows={rows.filter((r) => !(r.column === "lean" && r.family === families[1]))}
      lines={families.map((f) => ({ id: f, name: f, family: f }))}
      chosen=""
      onChoose={onChoose}
      onApply={() => undefined}
      busy={false}
    />,
  );
  const cell = (id: string) => document.querySelector<HTMLElement>(`button[data-row="${id}"]`);
  const first = cell(`lean.${families[0]}`);
  first?.focus();
  await user.keyboard("{ArrowDown}");
  expect(onChoose.mock.lastCall?.[0].id, "over the empty one").toBe(`lean.${families[2]}`);
  await user.keyboard("{ArrowRight}");
  expect(onChoose.mock.lastCall?.[0].id).toBe(`scatter.${families[2]}`);
  await user.keyboard("{ArrowUp}{ArrowUp}{ArrowUp}");
  expect(document.activeElement, "stays at the edge").toBe(cell(`scatter.${families[0]}`));
});
