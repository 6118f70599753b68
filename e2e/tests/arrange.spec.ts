// Whole pieces, made on the screen and read back from the files that are exported.
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { documentOf, expect, openView, saved, test } from "./base.js";
import type { Server } from "../server.js";

const rate = 48000;

/** The left side of a WAV file of 32-bit floats. */
function left(file: Buffer): Float32Array {
  let at = 12;
  while (file.toString("latin1", at, at + 4) !== "data") at += 8 + file.readUInt32LE(at + 4);
  const bytes = file.readUInt32LE(at + 4);
  const out = new Float32Array(bytes / 8);
  for (let i = 0; i < out.length; i++) out[i] = file.readFloatLE(at + 8 + 8 * i);
  return out;
}

async function exported(server: Server, project: string, what = "piece", more = ""): Promise<Float32Array> {
  const reply = await fetch(
    `${server.url}/api/projects/${await server.project(project)}/export/${what}?format=wav32f${more}`,
  );
  expect(reply.ok, await (reply.ok ? "" : reply.text())).toBe(true);
  return left(Buffer.from(await reply.arrayBuffer()));
}

/** The greatest and the mean level of a stretch, s. */
function level(x: Float32Array, from: number, to: number) {
  let peak = 0;
  let sum = 0;
  const part = x.subarray(Math.round(from * rate), Math.round(to * rate));
  for (const v of part) {
    peak = Math.max(peak, Math.abs(v));
    sum += v * v;
  }
  return { peak, rms: Math.sqrt(sum / Math.max(part.length, 1)) };
}

/** How strong a tone is in a stretch (Goertzel 1958). */
function tone(x: Float32Array, hz: number, from: number, to: number): number {
  const part = x.subarray(Math.round(from * rate), Math.round(to * rate));
  const c = 2 * Math.cos((2 * Math.PI * hz) / rate);
  let a = 0;
  let b = 0;
  for (const v of part) [a, b] = [v + c * a - b, a];
  return Math.sqrt(Math.max(a * a + b * b - c * a * b, 0)) / part.length;
}

/** What lies below about 120 Hz of a stretch, s: a mean over 4 ms, twice. */
function lowPassed(x: Float32Array, from: number, to: number): Float32Array {
  let y = x.slice(Math.round(from * rate), Math.round(to * rate));
  for (let k = 0; k < 2; k++) {
    const out = new Float32Array(y.length);
    let sum = 0;
    for (let i = 0; i < y.length; i++) {
      sum += (y[i] ?? 0) - (i >= 192 ? (y[i - 192] ?? 0) : 0);
      out[i] = sum / 192;
    }
    y = out;
  }
  return y;
}

/** Puts the cursor at a bar, counted from 1, of a piece of so many bars. */
async function cursorAt(page: Page, bar: number, bars: number) {
  const ruler = page.getByTestId("ruler");
  const box = await ruler.boundingBox();
  if (!box) throw new Error("no ruler");
  const x = 6 + ((box.width - 12) * (bar - 1)) / bars + 2;
  await ruler.click({ position: { x, y: 20 } });
}

const panel = (page: Page, name: string) =>
  page.getByRole("complementary").getByRole("button", { name, exact: true }).click();

async function section(page: Page, name: string, bars: number) {
  await page.getByLabel("Name of the section").fill(name);
  await page.getByLabel("Name of the section").press("Enter");
  await page.getByLabel("Bars", { exact: true }).fill(String(bars));
  await page.getByLabel("Bars", { exact: true }).press("Enter");
  await saved(page);
}

test("48 bars in five sections with a bar of silence, a low cut that rises and a hat that opens", async ({
  page,
  server,
}) => {
  const name = "Speed round";
  await openView(page, server, "arrange", name);
  const sections = page.getByRole("listbox", { name: "Sections" }).getByRole("option");
  await section(page, "Doors", 8);
  for (const [title, bars] of [["Lap", 17], ["Hold", 3], ["Floor", 13], ["Out", 7]] as const) {
    const before = await sections.count();
    await page.getByRole("button", { name: "Add a section" }).click();
    await expect(sections).toHaveCount(before + 1);
    await sections.nth(before).click({ position: { x: 3, y: 10 } });
    await section(page, title, bars);
  }
  await expect(page.getByTestId("piece-length")).toContainText("48 bars");
  // The 808 is painted out from the lap on, by one drag.
  const row = await page.getByTestId("paint-808").boundingBox();
  if (!row) throw new Error("no row of the 808");
  await page.mouse.move(row.x + row.width * 0.2, row.y + 15);
  await page.mouse.down();
  await page.mouse.move(row.x + row.width - 10, row.y + 15, { steps: 6 });
  await page.mouse.up();
  await saved(page);
  // The last bar of the hold is silent, what rings as well.
  await cursorAt(page, 28, 48);
  await panel(page, "Put");
  await page.keyboard.press("End");
  await expect(page.getByText("At the cursor, 48.1.1")).toBeVisible();
  await page.keyboard.press("Home");
  await expect(page.getByText("At the cursor, 1.1.1")).toBeVisible();
  await cursorAt(page, 28, 48);
  await page.getByRole("button", { name: "All", exact: true }).click();
  await page.getByRole("button", { name: /^all out at 28/ }).click();
  await page.getByLabel("what rings is cut").click();
  await saved(page);
  // The kick loses its lows over the lap.
  await sections.filter({ hasText: "Lap" }).click();
  await panel(page, "Draw");
  const draw = async (number: string, from: string, to: string) => {
    await page.getByLabel("Search numbers to draw").fill(number.replace(/[:,]/g, ""));
    await page.getByRole("group", { name: "Numbers to draw" }).getByRole("button", { name: number, exact: true }).click();
    const points = page.getByRole("complementary").getByLabel(/ at bar /);
    await expect(points).toHaveCount(2);
    await points.nth(0).fill(from);
    await points.nth(0).press("Enter");
    await saved(page);
    await points.nth(1).fill(to);
    await points.nth(1).press("Enter");
    await saved(page);
  };
  const kick = (await documentOf(server, name)).kit.voices[0].name;
  await draw(`${kick}: low cut`, "20", "400");
  await sections.filter({ hasText: "Floor" }).click();
  await panel(page, "Draw");
  const hat = (await documentOf(server, name)).kit.voices.find((v: { family: string }) => v.family === "hat_closed").name;
  await draw(`${hat}, noise: decay`, "20", "400");
  const doc = await documentOf(server, name);
  expect(doc.arrangement.sections.map((s: { bars: number }) => s.bars)).toEqual([8, 17, 3, 13, 7]);
  const bar = (4 * 60) / doc.tempo[0].bpm;
  const sound = await exported(server, name);
  expect(sound.length / rate).toBeGreaterThan(48 * bar - 0.01);
  expect(level(sound, 27 * bar + 0.02, 28 * bar - 0.06).peak, "a bar of silence").toBe(0);
  expect(level(sound, 28 * bar, 29 * bar).peak).toBeGreaterThan(0.05);
  // The kick has lost its lows at the end of the lap; the hat is longer at the end of the floor.
  const lows = (from: number) => level(lowPassed(sound, from * bar, (from + 2) * bar), 0, 2 * bar).rms;
  expect(lows(23)).toBeLessThan(0.8 * lows(8));
  const highs = (from: number) => {
    const x = sound.slice(Math.round(from * bar * rate), Math.round((from + 2) * bar * rate));
    for (let k = 0; k < 4; k++) for (let i = x.length - 1; i > 0; i--) x[i] = (x[i] ?? 0) - (x[i - 1] ?? 0);
    // Of frames of 5 ms the quiet ones: what is left between strokes.
    const frames = Array.from({ length: Math.floor(x.length / 240) - 1 }, (_, k) => level(x, (k + 1) * 0.005, (k + 2) * 0.005).rms);
    return frames.sort((a, b) => a - b)[Math.floor(frames.length * 0.3)] ?? 0;
  };
  expect(highs(39)).toBeGreaterThan(2 * highs(28));
  // Undo of everything: back to one section.
  const state = async () => (await (await fetch(`${server.url}/api/projects/${await server.project(name)}`)).json()) as any;
  for (let now = await state(); now.can_undo; now = await state()) {
    await page.getByRole("button", { name: "Undo" }).click();
    await expect.poll(async () => (await state()).version).toBeGreaterThan(now.version);
  }
  expect((await documentOf(server, name)).arrangement.sections).toHaveLength(1);
});

test("a break where only the kick's reverb is left, sped up by three semitones", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const name = "Warm-up laps";
  await openView(page, server, "mix", name);
  await page.getByRole("button", { name: "Add an effect to Kick" }).click();
  await page.getByRole("menuitem", { name: /^Reverb/ }).click();
  await saved(page);
  await openView(page, server, "arrange", name);
  await expect(page.getByTestId("piece-length")).toContainText("48 bars");
  await cursorAt(page, 13, 48);
  await panel(page, "Put");
  await page.getByRole("button", { name: "All", exact: true }).click();
  await expect(page.getByRole("button", { name: /^all out at 13/ })).toBeVisible();
  await saved(page);
  const bpm = (await documentOf(server, name)).tempo[0].bpm;
  const bar = (4 * 60) / bpm;
  const plain = await exported(server, name);
  const ring = level(plain, 12 * bar + 0.01, 12 * bar + 0.3).peak;
  expect(ring, "the reverb rings on").toBeGreaterThan(1e-4);
  expect(level(plain, 12 * bar + 0.3, 13 * bar - 0.05).peak).toBeLessThan(ring);
  expect(level(plain, 13 * bar - 0.05, 13 * bar + 0.3).peak).toBeGreaterThan(0.05);
  await panel(page, "Whole");
  const tape = page.getByRole("spinbutton", { name: /Tape/ });
  await tape.dblclick();
  await tape.press("3");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await documentOf(server, name)).arrangement.speed.semitones).toBe(3);
  const fast = await exported(server, name);
  expect(fast.length / plain.length).toBeCloseTo(2 ** (-3 / 12), 2);
  await expect(page.getByTestId("piece-length")).toContainText("1:45");
});

/** A song of 90 s: a chord, and drums of its own on every beat of 92 BPM. */
function song(): string {
  const n = 90 * rate;
  const file = Buffer.alloc(44 + 2 * n);
  file.write("RIFF", 0);
  file.writeUInt32LE(36 + 2 * n, 4);
  file.write("WAVEfmt ", 8);
  file.writeUInt32LE(16, 16);
  file.writeUInt16LE(1, 20);
  file.writeUInt16LE(1, 22);
  file.writeUInt32LE(rate, 24);
  file.writeUInt32LE(2 * rate, 28);
  file.writeUInt16LE(2, 32);
  file.writeUInt16LE(16, 34);
  file.write("data", 36);
  file.writeUInt32LE(2 * n, 40);
  const beat = (60 / 92) * rate;
  let noise = 1;
  for (let i = 0; i < n; i++) {
    const t = i / rate;
    let v = 0.06 * (Math.sin(2 * Math.PI * 440 * t) + Math.sin(2 * Math.PI * 554.4 * t));
    const at = (i % beat) / rate;
    const which = Math.floor(i / beat) % 2;
    noise = (noise * 16807) % 2147483647;
    const hiss = noise / 1073741823.5 - 1;
    if (which === 0) v += 0.7 * Math.exp(-at * 18) * Math.sin(2 * Math.PI * (52 * at + 6 * (1 - Math.exp(-at * 40))));
    else v += 0.35 * Math.exp(-at * 22) * (hiss + Math.sin(2 * Math.PI * 190 * at));
    file.writeInt16LE(Math.round(Math.max(Math.min(v, 1), -1) * 32000), 44 + 2 * i);
  }
  const path = join(mkdtempSync(join(tmpdir(), "jubrak-song-")), "rink organ.wav");
  writeFileSync(path, file);
  return path;
}

test("drums under a song of 90 s, ducked, without its own drums, a quarter-bar dropout and a fill", async ({
  page,
  server,
}) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  test.setTimeout(240_000);
  const name = "Warm-up laps";
  await openView(page, server, "arrange", name);
  await page.getByLabel("A recording behind the drums").setInputFiles(song());
  await expect(page.getByLabel("Name of the backing")).toHaveValue("rink organ", { timeout: 90_000 });
  const backing = async () => (await documentOf(server, name)).arrangement.backings[0];
  expect((await backing()).tempo_bpm).toBeCloseTo(92, 0);
  await page.getByRole("switch", { name: "Without its drums" }).or(page.getByLabel("Without its drums")).first().click();
  const duck = page.getByRole("spinbutton", { name: /Ducked by/ });
  await duck.dblclick();
  await duck.press("9");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await backing()).duck_db).toBe(9);
  expect((await backing()).drumless).toBe(true);
  await cursorAt(page, 12, 48);
  await panel(page, "Put");
  await page.getByRole("button", { name: "¼ bar, one hit" }).click();
  await expect(page.getByRole("button", { name: /^all out at 12/ })).toBeVisible();
  await cursorAt(page, 20, 48);
  await page.getByRole("group", { name: "Fills" }).getByRole("button", { name: /^Two bars down/ }).click();
  await expect(page.getByRole("button", { name: /^Two bars down at 20/ })).toBeVisible();
  await saved(page);
  // It is prepared beside; its row shows its wave then.
  await expect(page.locator("[data-testid^=backing-] path").first()).toBeVisible({ timeout: 150_000 });
  const drums = await exported(server, name);
  const both = await exported(server, name, "piece", "&backings=1");
  const rest = both.map((v, i) => v - (drums[i] ?? 0));
  const bar = (4 * 60) / 92;
  // Where the drums rest, in the silent bar, the song is heard as it is: its chord, no kick.
  expect(tone(rest, 440, 25 * bar + 0.3, 26 * bar - 0.3)).toBeGreaterThan(0.01);
  const own = level(rest, 25 * bar + 0.3, 26 * bar - 0.3);
  expect(own.peak, "its drums are taken out").toBeLessThan(0.35);
  // Under the drums it is turned down.
  expect(tone(rest, 440, 30 * bar, 31 * bar)).toBeLessThan(0.9 * tone(rest, 440, 25 * bar + 0.3, 26 * bar - 0.3));
  // A recording that is gone is said, and the drums play on.
  const id = await server.project(name);
  expect((await fetch(`${server.url}/api/projects/${id}/export/piece-midi`)).ok).toBe(true);
});

test("a bar is opened for here only, the reference's shape is taken, a stretch is bounced, a section moved", async ({ page, server }) => {
  const name = "Warm-up laps";
  await openView(page, server, "arrange", name);
  const sections = page.getByRole("listbox", { name: "Sections" }).getByRole("option");
  await sections.filter({ hasText: "Doors" }).click();
  await page.getByRole("button", { name: "for here only" }).click();
  await expect(page.getByRole("heading", { level: 1, name: "Bar 1 of Doors" })).toBeVisible();
  await expect(page.getByText("for here only")).toBeVisible();
  await page.locator('[data-lane="kick"]').focus();
  await page.keyboard.press("a");
  await page.keyboard.press("Delete");
  await saved(page);
  await page.getByRole("button", { name: "back to Arrange" }).click();
  const hits = async (bar: number) => {
    const reply = await fetch(`${server.url}/api/projects/${await server.project(name)}/piece/hits?from=${bar * 3840}&to=${(bar + 1) * 3840}`);
    return ((await reply.json()) as { rows: { voice: string; hits: number[] }[] }).rows.find((r) => r.voice === "hat")?.hits.length ?? 0;
  };
  await expect.poll(() => hits(0)).toBeGreaterThan(0);
  await expect(page.getByRole("button", { name: /^Bar 1 of Doors at 1/ })).toBeVisible();
  // A section is moved by a drag, and back by undo.
  const order = async () => (await documentOf(server, name)).arrangement.sections.map((s: { name: string }) => s.name);
  const last = await sections.last().boundingBox();
  const first = await sections.first().boundingBox();
  if (!last || !first) throw new Error("no sections");
  await page.mouse.move(last.x + 15, last.y + 15);
  await page.mouse.down();
  await page.mouse.move(first.x + 2, first.y + 15, { steps: 8 });
  await page.mouse.up();
  await expect.poll(order).toEqual(["Last lap", "Doors", "Slow lap", "Hold", "Full floor"]);
  await page.keyboard.press("Control+z");
  await expect.poll(order).toEqual(["Doors", "Slow lap", "Hold", "Full floor", "Last lap"]);
  // A stretch comes back as a voice.
  await panel(page, "Put");
  await page.getByRole("button", { name: "As a sample" }).click();
  await expect.poll(async () => (await documentOf(server, name)).kit.voices.length).toBe(6);
  // The reference's shape becomes sections; what was there is kept.
  await page.getByRole("button", { name: "take this shape" }).click();
  await expect.poll(async () => (await documentOf(server, name)).arrangement.orders.map((o: { name: string }) => o.name)).toEqual(["Before the shape"]);
  await expect.poll(async () => (await documentOf(server, name)).arrangement.sections.reduce((n: number, s: { bars: number }) => n + s.bars, 0)).toBe(8);
});
