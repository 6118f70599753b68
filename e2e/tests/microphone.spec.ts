import { alone, documentOf, expect, openView, saved, test } from "./base.js";

const kick = async (server: Parameters<typeof documentOf>[0]) =>
  (await documentOf(server, "Warm-up laps")).kit.voices.find((v: { id: string }) => v.id === "kick");

test("a sound is recorded with the microphone, trimmed and levelled", alone, async ({ page, server, context }) => {
  await context.grantPermissions(["microphone"], { origin: server.url });
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Add a layer" }).click();
  await page.getByRole("menuitem", { name: /by microphone/ }).click();
  const panel = page.getByRole("region", { name: "Record with the microphone" });
  // The browser's fake device beeps once a second.
  await expect(panel.getByText(/−?\d+ dBFS/)).toBeVisible();
  await panel.getByRole("button", { name: "Count in and record" }).click();
  await expect(panel.getByText(/^Recording: [12]/)).toBeVisible();
  await panel.getByRole("button", { name: "Stop" }).click();
  await expect(panel).toHaveCount(0);
  await saved(page);
  const made = (await kick(server)).layers.at(-1);
  expect(made.recording.skip_ms + made.recording.length_ms, "silence is left out").toBeGreaterThan(50);
  expect(made.recording.length_ms).toBeGreaterThan(20);
  expect(made.recording.gain_db).not.toBe(0);
});

test("a microphone that is refused is reported, and nothing is lost", alone, async ({ page, server }) => {
  await page.addInitScript(() => {
    navigator.mediaDevices.getUserMedia = () => Promise.reject(new DOMException("no", "NotAllowedError"));
  });
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Add a layer" }).click();
  await page.getByRole("menuitem", { name: /by microphone/ }).click();
  await expect(page.getByRole("alert")).toContainText("does not let Jubrak use the microphone");
  await expect(page.getByRole("region", { name: "Record with the microphone" })).toHaveCount(0);
  expect((await kick(server)).layers).toHaveLength(1);
});
