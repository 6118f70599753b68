// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import type { State } from "../../api/client";
import { projectOf, Refusal, serve, show } from "../../test/harness";
import { Export } from "./Export";

const levels = (peak: number | null, more: object = {}) => {
  const level = { peak_dbfs: peak, over_samples: peak !== null && peak > 0 ? 1234 : 0 };
  return { loop: level, stems: level, one_shots: level, missing: [], ...more };
};

const start = (state: State, answer: unknown = levels(-3)) => {
  const at = `/api/projects/${state.id}`;
  const calls = serve({
    [`GET ${at}/levels`]: answer,
    [`GET ${at}/piece`]: { bars: [0, 1, 2], seconds: 12.5 },
  });
  return { calls, ...show(<Export state={state} />, state) };
};

const link = (what: string) => {
  const all = screen.getAllByRole("link", { name: "Download" }) as HTMLAnchorElement[];
  const found = all.map((a) => new URL(a.href)).find((u) => u.pathname.endsWith(`/${what}`));
  if (!found) throw new Error(`no link for ${what}: ${all.map((a) => a.href)}`);
  return found;
};

test("each kind of file has its link, with what was chosen", async () => {
  const { user } = start(projectOf());
  expect(link("loop").searchParams.get("format")).toBe("wav24");
  await user.click(screen.getByRole("button", { name: "16 bit" }));
  expect(link("loop").searchParams.get("format")).toBe("wav16");
  await user.click(screen.getByRole("checkbox", { name: "a track for each voice" }));
  expect(link("midi").searchParams.get("tracks")).toMatch(/1|true/);
  await waitFor(() => expect(screen.getAllByText("−3.0").length).toBe(3));
  expect(screen.queryByText(/above full scale/), "nothing clips").toBeNull();
});

test("what clips is said and lowered for all files, just under full scale", async () => {
  const { user } = start(projectOf(), levels(2.31));
  await screen.findByText(/dB above full scale/);
  expect(screen.getAllByText(/samples beyond full/)).toHaveLength(3);
  await user.click(screen.getByRole("button", { name: "Lower by 2.4 dB" }));
  expect(Number(link("loop").searchParams.get("gain_db"))).toBe(-2.4);
  expect(Number(link("stems").searchParams.get("gain_db"))).toBe(-2.4);
  expect(screen.queryByText(/samples beyond full/)).toBeNull();
  await user.click(screen.getByRole("button", { name: "Leave the level" }));
  expect(Number(link("loop").searchParams.get("gain_db") ?? 0)).toBe(0);
});

test("32-bit float keeps what lies beyond, and says so", async () => {
  const { user } = start(projectOf(), levels(1));
  await screen.findByText(/heard as distortion/);
  await user.click(screen.getByRole("button", { name: "32 float" }));
  expect(screen.getByText(/32-bit float keeps what lies beyond/)).toBeTruthy();
});

test("a missing sound, a silent file, a failed measurement", async () => {
  start(projectOf(), levels(null, { missing: [{ voice: "Kick", layer: "Wood" }] }));
  expect(await screen.findByText(/Kick, layer “Wood”/)).toBeTruthy();
  expect(screen.getAllByText("silent")).toHaveLength(3);
});

test("levels that cannot be measured say why", async () => {
  start(projectOf(), new Refusal(400, "The groove is too long to measure."));
  expect(await screen.findAllByText("The groove is too long to measure.")).toHaveLength(3);
});

test("lanes that realign only after years offer no cycle", async () => {
  const state = projectOf({}, { cycle_ticks: 3840 * 9_000_000 });
  start(state);
  expect(await screen.findByText(/realign only after years/)).toBeTruthy();
  expect((screen.getByRole("button", { name: "One cycle" }) as HTMLButtonElement).disabled).toBe(true);
  await waitFor(() => expect(Number(link("loop").searchParams.get("bars"))).toBe(state.document.groove.bars));
});

test("an empty groove would be silence", () => {
  const doc = projectOf().document;
  start(projectOf({ groove: { ...doc.groove, lanes: doc.groove.lanes.map((l) => ({ ...l, hits: [] })) } }));
  expect(screen.getByText(/The groove is empty/)).toBeTruthy();
});

test("the piece has files of its own", async () => {
  const { user } = start(projectOf());
  await user.click(screen.getByRole("button", { name: "Piece" }));
  for (const what of ["piece", "sections", "piece-stems", "piece-midi", "project"]) link(what);
  expect(await screen.findAllByText(/2 bars/)).not.toHaveLength(0);
});

test("hits before the first downbeat offer a pickup bar", async () => {
  const doc = projectOf().document;
  const falls = doc.groove.lanes.map((l) => l.hits.map((h) => ({ hit: h.id, offset_ms: -8, velocity: 90 })));
  const { user } = start(projectOf({}, { falls: falls as State["falls"] }));
  expect(screen.getByText(/stand at the loop's end/)).toBeTruthy();
  await user.click(screen.getByRole("checkbox", { name: /a pickup bar in front/ }));
  expect(screen.getByText(/A bar of its own stands in front/)).toBeTruthy();
});
