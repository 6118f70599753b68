// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { useProject } from "../../state/project";
import { Refusal, serve, show } from "../../test/harness";
import { Home } from "./Home";

const card = (id: string, more: Partial<Schemas["Summary"]> = {}): Schemas["Summary"] => ({
  id,
  name: id,
  version: 3,
  updated: "2026-11-02T10:00:00Z",
  tempo_bpm: 92,
  meter: "4/4",
  bars: 2,
  rows: [],
  reference: "",
  outside: null,
  measurable: 0,
  problem: "",
  size_bytes: 1000,
  ...more,
});

const rink = [
  card("Warm-up laps", { reference: "Back straight", outside: 4, measurable: 60 }),
  card("Couples only", { tempo_bpm: 118, updated: "2026-11-03T10:00:00Z" }),
  card("Lights out", { tempo_bpm: 140, bars: 1, outside: 9, measurable: 61, reference: "Late session" }),
];

const answers = {
  "GET /api/projects": { projects: rink, size_bytes: 3_000_000 },
  "GET /api/jobs": { jobs: [] },
};
const names = () => screen.getAllByRole("listitem").map((el) => el.getAttribute("aria-label"));

test("projects stand by their last change, and are found by words of any kind", async () => {
  serve(answers);
  const { user } = show(<Home />);
  await screen.findByText("Couples only");
  expect(names()).toEqual(["Couples only", "Warm-up laps", "Lights out"]);
  await user.selectOptions(screen.getByRole("combobox"), "outside");
  expect(names()).toEqual(["Lights out", "Warm-up laps", "Couples only"]);
  await user.type(screen.getByRole("searchbox"), "late 140");
  expect(names()).toEqual(["Lights out"]);
  await user.type(screen.getByRole("searchbox"), " waltz");
  expect(screen.getByText(/No project has all of/)).toBeTruthy();
});

test("how far each is from its reference, and one without any", async () => {
  serve(answers);
  show(<Home />);
  const laps = await screen.findByRole("listitem", { name: "Warm-up laps" });
  expect(laps.textContent).toContain("4 of 60 outside");
  expect(screen.getByRole("listitem", { name: "Couples only" }).textContent).toContain("no reference yet");
  expect(screen.getByRole("listitem", { name: "Lights out" }).textContent).toContain("1 bar");
});

test("an empty list says how to begin", async () => {
  serve({ ...answers, "GET /api/projects": { projects: [], size_bytes: 0 } });
  show(<Home />);
  expect(await screen.findByText(/None yet\. Name one above/)).toBeTruthy();
  expect(screen.queryByRole("searchbox"), "nothing to search").toBeNull();
});

test("a new project is made by its name and opened", async () => {
  const calls = serve({ ...answers, "POST /api/projects": { id: "new1" } });
  const { user } = show(<Home />);
  await user.type(screen.getByLabelText("Name of the new project"), "  Last skate ");
  await user.click(screen.getByRole("button", { name: "New project" }));
  await waitFor(() => expect(location.pathname).toBe("/p/new1/reference"));
  expect(calls.find((c) => c.method === "POST")?.body).toEqual({ name: "Last skate" });
});

test("what the server refuses is said in its words", async () => {
  serve({ ...answers, "POST /api/projects": new Refusal(507, "The disk is full. Nothing was changed.") });
  const { user } = show(<Home />);
  await user.click(screen.getByRole("button", { name: "New project" }));
  await waitFor(() =>
    expect(useProject.getState().notice?.text).toBe("The disk is full. Nothing was changed."),
  );
});

test("a project is renamed in place, and Escape keeps its name", async () => {
  const calls = serve({ ...answers, "POST /api/projects/Lights%20out/edits": {} });
  const { user } = show(<Home />);
  const rename = async () => {
    await user.click(await screen.findByRole("button", { name: "More for Lights out" }));
    await user.click(await screen.findByRole("menuitem", { name: "Rename" }));
    return screen.findByLabelText("New name of Lights out");
  };
  await rename();
  await user.keyboard("x{Escape}");
  expect(screen.queryByLabelText("New name of Lights out")).toBeNull();
  expect(calls.filter((c) => c.method === "POST")).toHaveLength(0);
  const field = await rename();
  await user.clear(field);
  await user.type(field, "Lights low{Enter}");
  await waitFor(() =>
    expect(calls.find((c) => c.method === "POST")?.body).toEqual({
      base: 3,
      edits: [{ op: "project.rename", name: "Lights low" }],
      coalesce: "",
    }),
  );
});

test("a project is deleted only when that was said twice", async () => {
  const calls = serve({ ...answers, "DELETE /api/projects/Lights%20out": {} });
  const { user } = show(<Home />);
  const row = await screen.findByRole("listitem", { name: "Lights out" });
  const ask = async () => {
    await user.click(within(row).getByRole("button", { name: "More for Lights out" }));
    await user.click(await screen.findByRole("menuitem", { name: /^Delete/ }));
  };
  await ask();
  await user.click(within(row).getByRole("button", { name: "Cancel" }));
  expect(calls.some((c) => c.method === "DELETE")).toBe(false);
  await ask();
  await user.click(within(row).getByRole("button", { name: "Delete" }));
  await waitFor(() => expect(calls.some((c) => c.method === "DELETE")).toBe(true));
});

test("one that cannot be opened says why", async () => {
  const broken = card("Torn poster", { problem: "Its document cannot be read." });
  serve({ ...answers, "GET /api/projects": { projects: [broken], size_bytes: 10 } });
  show(<Home />);
  const row = await screen.findByRole("listitem", { name: "Torn poster" });
  expect(row.textContent).toContain("Its document cannot be read.");
  expect((within(row).getAllByRole("button")[0] as HTMLButtonElement).disabled).toBe(true);
});
