import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { documentOf, expect, openView, test } from "./base.js";

const begin = async (page: Page, sounds: string) => {
  await page.getByRole("button", { name: "Rebuild…" }).click();
  const choice = page.getByRole("region", { name: "Rebuild", exact: true });
  await choice.getByLabel(sounds).check();
  await choice.getByRole("button", { name: "Rebuild it" }).click();
  return page.getByRole("region", { name: "Rebuilding" });
};

test("a reference is rebuilt beside the project, from Reference; what came from where is shown", async ({ page, server }) => {
  test.slow();
  await openView(page, server, "reference");
  const report = await begin(page, "the drums' own samples");
  await expect(page.getByLabel("Project name")).toHaveValue("Warm-up laps, rebuilt");
  await expect(report).toContainText(/138 hits over 8 bars at 92\.0\d BPM/, { timeout: 60_000 });
  await expect(report.getByRole("heading")).toContainText(/\d+ of \d+ values inside/, { timeout: 120_000 });
  const [inside, all] = ((await report.getByRole("heading").textContent()) ?? "").match(/\d+/g)!.map(Number);
  expect(inside / all).toBeGreaterThan(0.9);
  await expect(page.getByRole("tab", { name: "Feel 0" })).toBeVisible();
  const d = await documentOf(server, "Warm-up laps, rebuilt");
  expect(d.kit.voices.map((v: { name: string }) => v.name)).toEqual(["Kick", "Snare", "Hat", "Open hat"]);
  expect(d.targets.length).toBe(4);
  await page.getByRole("button", { name: "Origins…" }).click();
  const origins = page.getByRole("table", { name: "Origins" });
  await expect(origins.getByRole("row", { name: /Kick/ })).toContainText("40 of 40 the reference's");
  await expect(origins.getByRole("row", { name: /Kick/ })).toContainText("its own samples");
  // A hit less and another sound are one's own.
  await report.getByRole("button", { name: "Done" }).click();
  const id = await server.project("Warm-up laps, rebuilt");
  const { version } = await (await fetch(`${server.url}/api/projects/${id}`)).json();
  const first = d.groove.lanes.find((l: { voice: string }) => l.voice === "kick").hits[0].id;
  await fetch(`${server.url}/api/projects/${id}/edits`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ base: version, edits: [{ op: "hit.move", hits: [{ voice: "kick", hit: first }], ticks: 240 }] }),
  });
  await page.reload();
  await page.getByRole("button", { name: "Origins…" }).click();
  await expect(origins.getByRole("row", { name: /Kick/ })).toContainText("39 of 40 the reference's");
});

test("a rebuild is stopped and kept, or given up and all is as it was", async ({ page, server }) => {
  test.slow();
  await openView(page, server, "compare", "Speed round");
  const report = await begin(page, "fitted recipes");
  await expect(report).toContainText(/hits over/, { timeout: 60_000 });
  await report.getByRole("button", { name: "Stop and keep" }).click();
  await expect(report.getByRole("heading")).toContainText("Stopped: what was made stays");
  const d = await documentOf(server, "Speed round, rebuilt");
  expect(d.groove.bars).toBe(8);
  await page.goto(server.url);
  await expect(page.getByText("Speed round, rebuilt")).toBeVisible();
  await openView(page, server, "compare", "Speed round");
  const again = await begin(page, "fitted recipes");
  await expect(again).toContainText(/hits over/, { timeout: 60_000 });
  await again.getByRole("button", { name: "Give up" }).click();
  await expect(page.getByText("Given up: all is as it was before.")).toBeVisible();
  await expect(page.getByText("Speed round, rebuilt")).toHaveCount(1);
});

test("a genre's feel is brought to a copy of the project, a dropped file becomes a project", async ({ page, server }) => {
  test.slow();
  await openView(page, server, "compare", "Night skate");
  await page.getByRole("button", { name: "Rebuild…" }).click();
  await page.getByRole("button", { name: "Rebuild it" }).click();
  await expect(page.getByRole("region", { name: "Rebuilding" }).getByRole("heading")).toContainText(/values inside/, { timeout: 120_000 });
  await expect(page.getByRole("tab", { name: "Feel 0" })).toBeVisible();
  expect((await documentOf(server, "Night skate, rebuilt")).groove.lanes[0].hits.length).toBeGreaterThan(4);
  await page.goto(server.url);
  await expect(page.getByText("Closing time")).toBeVisible();
  const bytes = readFileSync("../demo/rink/speed-round.flac").toString("base64");
  const data = await page.evaluateHandle((text) => {
    const dropped = new DataTransfer();
    dropped.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], "Late loop.flac"));
    return dropped;
  }, bytes);
  await page.dispatchEvent("body", "dragover", { dataTransfer: data });
  await expect(page.getByText("Drop a recording to rebuild it")).toBeVisible();
  await page.dispatchEvent("body", "drop", { dataTransfer: data });
  const choice = page.getByRole("region", { name: "Rebuild", exact: true });
  await expect(choice).toBeVisible({ timeout: 60_000 });
  await choice.getByLabel("the drums' own samples").check();
  await choice.getByRole("button", { name: "Rebuild it" }).click();
  await expect(page.getByRole("region", { name: "Rebuilding" }).getByRole("heading")).toContainText(/values inside/, { timeout: 120_000 });
  await expect(page.getByLabel("Project name")).toHaveValue("Late loop");
});
