import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { documentOf, expect, openView, saved, test } from "./base.js";

const fixtures = "../fixtures/gm";

async function newProject(page: import("@playwright/test").Page, server: { url: string }) {
  await page.goto(server.url);
  await page.getByLabel("Name of the new project").fill("Late skate");
  await page.getByRole("button", { name: "New project" }).click();
  await expect(page.getByRole("heading", { name: "What should it feel like?" })).toBeVisible();
}

test("a file by picker: listened to, shown, measured", async ({ page, server }) => {
  await newProject(page, server);
  await page.getByLabel("Reference file").setInputFiles(join(fixtures, "lazy-88.flac"));
  await expect(page.getByText("lazy-88.flac is now the reference.")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText(/8[78]\.\d+ BPM/);
  await expect(page.locator('[data-family="kick"]')).toBeVisible();
  await expect(page.locator('[data-family="snare"]')).toBeVisible();
  await expect(page.locator("[data-fact=reference]")).toContainText("88.0 BPM, 4/4");
  await page.getByRole("button", { name: "Take pattern and feel" }).click();
  await expect(page.getByRole("heading", { name: "Groove A" })).toBeVisible();
  await expect.poll(async () => (await documentOf(server, "Late skate")).tempo[0].bpm).toBeCloseTo(88, 0);
});

test("a MIDI file by drop", async ({ page, server, request }) => {
  await newProject(page, server);
  const id = await server.project("Warm-up laps");
  const midi = await (await request.get(`${server.url}/api/projects/${id}/export/midi`)).body();
  const bytes = [...midi];
  const transfer = await page.evaluateHandle((b) => {
    const t = new DataTransfer();
    t.items.add(new File([new Uint8Array(b)], "laps.mid"));
    return t;
  }, bytes);
  await page.dispatchEvent("main", "drop", { dataTransfer: transfer });
  await expect(page.getByText("laps.mid is now the reference.")).toBeVisible();
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText("92.00 BPM");
  await expect(page.getByText("no recording to play beside")).toBeVisible();
});

test("bad files say what is wrong and change nothing", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  const flac = readFileSync(join(fixtures, "funk-102.flac"));
  const bad: [string, Buffer, RegExp][] = [
    ["picture.wav", Buffer.from("\x89PNG\r\n\x1a\n0000000000000", "latin1"), /not WAV, FLAC or MP3/],
    ["empty.wav", Buffer.alloc(0), /empty/],
    ["cut.flac", flac.subarray(0, 100_000), /cut short|damaged/],
  ];
  for (const [file, data, says] of bad) {
    const path = info.outputPath(file);
    writeFileSync(path, data);
    await page.getByLabel("Reference file").setInputFiles(path);
    await expect(page.getByRole("alert")).toContainText(says);
    await expect(page.getByRole("alert")).toContainText("Nothing was changed");
    await page.getByRole("button", { name: "Dismiss" }).click();
  }
  expect((await documentOf(server, "Warm-up laps")).references.length).toBe(1);
});

test("corrections: tempo, bar one, hits; all can be undone", async ({ page, server }) => {
  await openView(page, server, "reference");
  const tempo = page.getByRole("row", { name: /^Tempo/ });
  await page.getByRole("button", { name: "Double" }).click();
  await expect(tempo).toContainText("184.");
  await page.getByRole("button", { name: "Halve" }).click();
  await expect(tempo).toContainText("92.");
  await page.getByRole("button", { name: "Bar one a beat later" }).click();
  await saved(page);
  expect((await documentOf(server, "Warm-up laps")).references[0].corrections.length).toBe(3);
  for (let i = 0; i < 3; i++) {
    await page.getByRole("button", { name: "Undo" }).click();
    await saved(page);
  }
  const kick = page.locator('[data-family="kick"]');
  await expect(kick).toHaveAttribute("aria-label", /Kick, 40 hits/);
  await kick.focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("region", { name: "Selected hit" })).toBeVisible();
  await page.getByLabel("File it under").selectOption("tom");
  await expect(page.locator('[data-family="tom"]')).toHaveAttribute("aria-label", /Tom, 1 hits/);
  await expect(kick).toHaveAttribute("aria-label", /Kick, 39 hits/);
  await kick.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("x");
  await expect(kick).toHaveAttribute("aria-label", /Kick, 38 hits/);
  const box = await kick.locator("svg").boundingBox();
  if (!box) throw new Error("no row");
  await page.mouse.dblclick(box.x + 0.41 * box.width, box.y + 20);
  await expect(kick).toHaveAttribute("aria-label", /Kick, 39 hits/);
});

test("a long file can be cancelled", async ({ page, server }, info) => {
  await newProject(page, server);
  const path = info.outputPath("long.wav");
  const frames = 44100 * 240;
  const wav = Buffer.alloc(44 + frames * 2);
  wav.write("RIFF", 0);
  wav.writeUInt32LE(36 + frames * 2, 4);
  wav.write("WAVEfmt ", 8);
  wav.writeUInt32LE(16, 16);
  wav.writeUInt16LE(1, 20);
  wav.writeUInt16LE(1, 22);
  wav.writeUInt32LE(44100, 24);
  wav.writeUInt32LE(88200, 28);
  wav.writeUInt16LE(2, 32);
  wav.writeUInt16LE(16, 34);
  wav.write("data", 36);
  wav.writeUInt32LE(frames * 2, 40);
  for (let i = 0; i < frames; i++) wav.writeInt16LE(((i * 7919) % 20000) - 10000, 44 + 2 * i);
  writeFileSync(path, wav);
  await page.getByLabel("Reference file").setInputFiles(path);
  await expect(page.getByRole("progressbar", { name: "Listening" })).toBeVisible();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByText("Cancelled. Nothing was changed.")).toBeVisible();
  expect((await documentOf(server, "Late skate")).references.length).toBe(0);
});
