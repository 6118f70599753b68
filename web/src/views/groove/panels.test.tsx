// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import type { State } from "../../api/client";
import { useSelection } from "../../state/selection";
import { projectOf, serve, show } from "../../test/harness";
import { HitPanel } from "./HitPanel";
import { SelectPanel } from "./SelectPanel";
import { VariationBar } from "./VariationBar";

beforeEach(() => void serve({}));

const kick = [{ voice: "kick", hit: "h1" }];
const hitPanel = (state: State, hits: { voice: string; hit: string }[]) => {
  useSelection.getState().set({ hits });
  return show(<HitPanel state={state} />, state);
};

test("without a selection the hits' panel says how to make one", () => {
  hitPanel(projectOf(), []);
  expect(screen.getByRole("heading").textContent).toBe("No hit selected");
});

test("a typed number acts on all that are selected, held to its range", async () => {
  const both = [...kick, { voice: "snare", hit: "h1" }];
  const { edits, user } = hitPanel(projectOf(), both);
  expect(screen.getByRole("heading", { level: 2 }).textContent).toBe("2 hits");
  const velocity = await screen.findByRole("spinbutton", { name: "Velocity" });
  await user.clear(velocity);
  await user.type(velocity, "300{Enter}");
  expect(edits.at(-1)).toEqual([{ op: "hit.set", hits: both, number: "velocity", value: 127 }]);
});

test("text that is no number changes nothing", async () => {
  const { edits, user } = hitPanel(projectOf(), kick);
  const velocity = await screen.findByRole("spinbutton", { name: "Velocity" });
  for (const text of ["loud", "--", "1e999", " "]) {
    await user.clear(velocity);
    await user.type(velocity, `${text}{Enter}`);
  }
  expect(edits).toEqual([]);
  expect((velocity as HTMLInputElement).value).toBe("120");
});

test("arrow keys step a number, Shift a tenth of it", async () => {
  const { edits, user } = hitPanel(projectOf(), kick);
  const nudge = await screen.findByRole("spinbutton", { name: /Nudge/ });
  nudge.focus();
  await user.keyboard("{ArrowUp}");
  await user.keyboard("{Shift>}{ArrowUp}{/Shift}");
  const values = edits.map((list) => (list[0] as { value: number }).value);
  expect((values[1] ?? 0) - (values[0] ?? 0)).toBeCloseTo((values[0] ?? 0) / 10, 9);
});

test("ghost, accent and mute are each one edit", async () => {
  const { edits, user } = hitPanel(projectOf(), kick);
  for (const name of ["Ghost", "Accent", "Normal", "Mute"])
    await user.click(screen.getByRole("button", { name }));
  expect(edits.map((list) => (list[0] as { as: string }).as)).toEqual(["ghost", "accent", "plain", "drop"]);
});

test("a groove by its letter, another one, and its name", async () => {
  const state = projectOf();
  const { edits, user } = show(<VariationBar state={state} />, state);
  await user.click(screen.getByRole("button", { name: "Another variation" }));
  expect(edits.at(-1)).toEqual([{ op: "variation.add" }]);
  const { variation } = state.document;
  const name = screen.getByLabelText(`Name of variation ${variation.toUpperCase()}`);
  await user.clear(name);
  await user.type(name, "Hands up{Enter}");
  expect(edits.at(-1)).toEqual([{ op: "variation.rename", variation, name: "Hands up" }]);
});

test("from the eleventh variation on the rest stand in a list; the present one is always on show", async () => {
  const variations = Array.from({ length: 14 }, (_, i) => ({
    ...projectOf().document.variations[0],
    id: String.fromCharCode(97 + i),
    name: "",
    here: false,
  }));
  const state = projectOf({ variations, variation: "n" } as unknown as Partial<State["document"]>);
  const { edits, user } = show(<VariationBar state={state} />, state);
  const list = screen.getByLabelText("More variations") as HTMLSelectElement;
  expect(list.options[0]?.textContent).toBe("4 more…");
  expect(screen.getByRole("button", { name: "N", pressed: true })).toBeTruthy();
  await user.selectOptions(list, "k");
  expect(edits.at(-1)).toEqual([{ op: "variation.use", variation: "k" }]);
});

test("the one that plays cannot be removed", async () => {
  const state = projectOf({ ...twoVariations() });
  const { edits, user } = show(<VariationBar state={state} />, state);
  await user.click(screen.getByRole("button", { name: "Remove a variation" }));
  const items = await screen.findAllByRole("menuitem");
  expect(items.map((i) => i.textContent)).toEqual(["Remove BBridge"]);
  await user.click(items[0] as HTMLElement);
  expect(edits.at(-1)).toEqual([{ op: "variation.remove", variation: "b" }]);
});

function twoVariations(): Partial<State["document"]> {
  const first = { ...projectOf().document.variations[0], id: "a", name: "Verse", here: false };
  return {
    variation: "a",
    variations: [first, { ...first, id: "b", name: "Bridge" }],
  } as unknown as Partial<State["document"]>;
}

test("selecting by a rule: as it opens, by velocity, and both ends stay in order", async () => {
  const state = projectOf();
  useSelection.getState().set({ voice: "kick", tick: 0, hits: [] });
  const { user } = show(<SelectPanel state={state} />, state);
  await user.click(screen.getByRole("button", { name: "Select matching…" }));
  const lane = state.document.groove.lanes.find((l) => l.voice === "kick")?.hits ?? [];
  expect(useSelection.getState().hits).toHaveLength(lane.length);
  const panel = await screen.findByRole("dialog", { name: "Select by rule" });
  const from = within(panel).getByRole("spinbutton", { name: "velocity from" });
  await user.clear(from);
  await user.type(from, "100{Enter}");
  expect(useSelection.getState().hits).toHaveLength(lane.filter((h) => h.velocity >= 100).length);
  const to = within(panel).getByRole("spinbutton", { name: "to" });
  await user.clear(to);
  await user.type(to, "60{Enter}");
  expect(from.getAttribute("aria-valuenow"), "the other end gives way").toBe("60");
  await user.keyboard("{Escape}");
  expect(screen.queryByRole("dialog")).toBeNull();
});
