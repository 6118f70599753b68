import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { passesAxe } from "./axe.js";
import { documentOf, expect, openView, saved, test } from "./base.js";

const require = createRequire(import.meta.url);
const { parseMidi } = require("midi-file");
const { Midi } = require("@tonejs/midi");

test("compare: differences are closed one by one and by the column, measured again, undone", async ({ page, server }) => {
  await openView(page, server, "compare");
  const swing = page.locator('[data-row="swing"]');
  await expect(swing).toHaveAccessibleName(/outside/);
  await swing.click();
  const detail = page.getByRole("region", { name: "The chosen difference" });
  await detail.getByRole("button", { name: /^Apply: Swing/ }).click();
  await expect(swing).toHaveAccessibleName(/inside/);
  const report = page.getByRole("region", { name: "What came of it" });
  await expect(report).toContainText("1 of 1 closed");
  await expect(report).toContainText(/wanted \+3\.\d %, got \+3\.\d/);
  expect((await documentOf(server, "Warm-up laps")).groove.feel.swing_percent).toBeGreaterThan(57);
  await page.getByRole("tab", { name: /^Tone/ }).click();
  const pitch = page.locator('[data-row="fundamental.kick"]');
  await pitch.click();
  await page.keyboard.press("ArrowDown");
  await expect(page.locator('[data-row="fundamental.snare"]')).toBeFocused();
  await page.keyboard.press("ArrowUp");
  await expect(pitch).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByRole("img", { name: "Third octaves" })).toBeVisible();
  await detail.getByRole("button", { name: /^Apply: Pitch/ }).click();
  await expect(pitch).toHaveAccessibleName(/inside/);
  await page.getByRole("tab", { name: /^Feel/ }).click();
  await page.getByRole("button", { name: "Apply all timing" }).click();
  await expect(page.getByRole("tab", { name: "Feel 0" })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator('[data-row="lean.snare"]')).toHaveAccessibleName(/outside/);
  await page.getByRole("tab", { name: /^Hits/ }).click();
  await page.getByRole("button", { name: "Apply all of 808" }).click();
  await expect(page.locator('[data-row="hits.808"]')).toHaveCount(0); // the reference has none
  await expect(page.getByRole("region", { name: "Distance over versions" })).toBeVisible();
});

test("compare: blind, in hidden order, with odds; the results are kept", async ({ page, server }) => {
  await openView(page, server, "compare");
  await page.getByRole("button", { name: "Blind test…" }).click();
  const panel = page.getByRole("region", { name: "Blind test" });
  await panel.getByLabel("Rounds").selectOption("4");
  await panel.getByRole("button", { name: "Begin" }).click();
  for (let round = 1; round <= 4; round++) {
    await expect(panel).toContainText(`Round ${round} of 4`);
    await panel.getByRole("button", { name: "Hear X" }).click();
    await panel.getByRole("button", { name: "X is B" }).click();
  }
  await expect(panel).toContainText(/[0-4] of 4 right; guessing would do this well/);
  await page.reload();
  await page.getByRole("button", { name: "Blind test…" }).click();
  await expect(page.getByRole("table", { name: "Blind tests before" })).toContainText("of 4");
});

test("sounds: by number, by chart, by note; measured", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await expect(page.locator('[data-measure="Fundamental"]')).toHaveText(/46\.\d Hz/);
  const end = page.getByRole("spinbutton", { name: "End pitch" });
  await end.fill("55");
  await end.press("Enter");
  await expect(page.locator('[data-measure="Fundamental"]')).toHaveText(/55\.\d Hz/);
  await expect(page.locator('[data-measure="Note"]')).toHaveText(/A1/);
  const decay = page.locator('[data-handle="body-decay"]');
  const b = await decay.boundingBox();
  if (!b) throw new Error("no handle");
  await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2);
  await page.mouse.down();
  await page.mouse.move(b.x - 80, b.y + b.height / 2, { steps: 10 });
  await page.mouse.up();
  await expect.poll(async () => (await documentOf(server, "Warm-up laps")).kit.voices[0].layers[0].recipe.body.decay_ms).toBeLessThan(330);
  await page.getByRole("tab", { name: "808" }).click();
  const note = page.getByLabel("Note of the 808");
  await note.fill("G1");
  await note.press("Enter");
  await expect(page.locator('[data-measure="Note"]')).toHaveText(/G1/);
  await note.fill("H9");
  await note.press("Enter");
  await expect(page.getByRole("alert")).toContainText("not a note");
});

test("what one drum looks like is never shown under another's name", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("tab", { name: "Hat", exact: true }).click();
  await expect(page.getByRole("img", { name: "Wave over time" })).toBeVisible();
  let answer: () => void = () => undefined;
  const asked = new Promise<void>((done) => {
    answer = done;
  });
  await page.route("**/voices/808/sound", async (route) => {
    await asked; // a busy machine
    await route.continue();
  });
  await page.getByRole("tab", { name: "808" }).click();
  await expect(page.getByLabel("Name of the voice")).toHaveValue("808");
  await expect(page.getByText("Rendering and measuring 808…")).toBeVisible();
  await expect(page.getByRole("img", { name: "Wave over time" })).toHaveCount(0);
  await expect(page.getByRole("row", { name: /Fundamental/ })).toContainText("–");
  answer();
  await expect(page.getByRole("img", { name: "Wave over time" })).toBeVisible();
  await expect(page.getByRole("row", { name: /Fundamental/ })).toContainText("Hz");
});

test("an edit that waits while a file comes in is made when it is there", async ({ page, server }) => {
  await openView(page, server, "groove");
  const id = await server.project("Warm-up laps");
  // Another reference comes in behind the page's back.
  const reply = await page.request.post(`${server.url}/api/projects/${id}/takes`, {
    data: { name: "Pads", tempo_bpm: 100, beats: 4, hits: [0, 0.6, 1.2, 1.8].map((time_s) => ({ time_s, family: "kick", velocity: 90 })) },
  });
  expect(reply.ok()).toBe(true);
  const swing = page.getByRole("spinbutton", { name: "Swing", exact: true });
  await swing.fill("63");
  await swing.press("Enter");
  await saved(page);
  const doc = await documentOf(server, "Warm-up laps");
  expect(doc.groove.feel.swing_percent).toBe(63);
  expect(doc.references.length).toBe(2);
});

test("export: WAV and MIDI as others read them, and the same from the command line", async ({ page, server }, info) => {
  await openView(page, server, "export");
  await page.getByRole("button", { name: "16 bit" }).click();
  const take = async (title: string) => {
    const item = page.getByRole("listitem").filter({ has: page.getByRole("heading", { name: title, exact: true }) });
    const [download] = await Promise.all([page.waitForEvent("download"), item.getByRole("link", { name: "Download" }).click()]);
    const path = info.outputPath(download.suggestedFilename());
    await download.saveAs(path);
    return path;
  };
  const loop = await take("Loop");
  const probe = execFileSync("ffprobe", ["-v", "error", "-show_entries", "stream=codec_name,sample_rate,channels,duration_ts", "-of", "csv=p=0", loop]).toString();
  expect(probe.trim()).toBe("pcm_s16le,48000,2,250435"); // two bars at 92 BPM
  const midi = await take("MIDI");
  const cli = info.outputPath("cli");
  execFileSync("../bin/jubrak", ["render", "Warm-up laps", "--data", server.data, "--out", cli, "--mix", "--midi", "--stems", "--one-shots", "--format", "wav16"]);
  expect(readFileSync(loop).equals(readFileSync(`${cli}/warm-up-laps-loop-92bpm.wav`)), "the same bytes").toBe(true);
  expect(readFileSync(midi).equals(readFileSync(`${cli}/warm-up-laps.mid`))).toBe(true);

  const doc = await documentOf(server, "Warm-up laps");
  const count = doc.groove.lanes.reduce((n: number, l: { hits: unknown[] }) => n + l.hits.length, 0);
  const one = parseMidi(readFileSync(midi));
  const two = new Midi(readFileSync(midi));
  const ons = one.tracks.flat().filter((e: { type: string }) => e.type === "noteOn");
  expect(ons.length).toBe(count);
  expect(two.tracks.flatMap((t: { notes: unknown[] }) => t.notes).length).toBe(count);
  expect(two.header.tempos[0].bpm).toBeCloseTo(92, 2);
  expect(two.header.timeSignatures[0].timeSignature).toEqual([4, 4]);
  expect(one.header.ticksPerBeat).toBe(960);
  // The first hat leans 4 ms and scatters by 2.2: it is not on the grid.
  const hat = two.tracks.flatMap((t: { notes: { midi: number; time: number }[] }) => t.notes).find((n: { midi: number; ticks: number }) => n.midi === 42 && n.ticks > 100);
  expect(hat).toBeTruthy();
  const project = await take("Project");
  execFileSync("../bin/jubrak", ["render", project, "--out", cli, "--mix", "--format", "wav16"]);
  expect(readFileSync(loop).equals(readFileSync(`${cli}/warm-up-laps-loop-92bpm.wav`))).toBe(true);
});

test("a crash of the server loses nothing", async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.getByRole("spinbutton", { name: "Swing", exact: true }).fill("61");
  await page.getByRole("spinbutton", { name: "Swing", exact: true }).press("Enter");
  await saved(page);
  await expect.poll(async () => (await documentOf(server, "Warm-up laps")).groove.feel.swing_percent).toBe(61);
  await server.stop("SIGKILL");
  await page.getByRole("button", { name: "Reset feel", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("Lost the connection to Jubrak");
  await server.start();
  await page.reload();
  await expect(page.getByRole("spinbutton", { name: "Swing", exact: true })).toHaveValue("61.0");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("spinbutton", { name: "Swing", exact: true })).toHaveValue("55.0");
  await page.getByRole("button", { name: "Redo" }).click();
  await expect(page.getByRole("spinbutton", { name: "Swing", exact: true })).toHaveValue("61.0");
});

test("projects: made, renamed, found, duplicated, deleted", async ({ page, server }) => {
  await page.goto(server.url);
  await page.getByLabel("Name of the new project").fill("Couples only");
  await page.getByRole("button", { name: "New project" }).click();
  await page.getByLabel("Project name").fill("Couples only, slow");
  await page.getByLabel("Project name").press("Enter");
  await saved(page);
  await page.getByTitle("All projects").click();
  await expect(page.getByText("Couples only, slow")).toBeVisible();
  const cards = page.getByRole("listitem");
  await expect(cards).toHaveCount(5);
  // A project reports its tempo, its groove, its reference and how far it is from it.
  const laps = page.getByRole("listitem", { name: "Warm-up laps" });
  await expect(laps.getByText("92.0 BPM, 4/4, 2 bars")).toBeVisible();
  await expect(laps.getByRole("img", { name: /Kick 10, Snare 6/ })).toBeVisible();
  await expect(laps.getByText("Rink drummer, take 2")).toBeVisible();
  await expect(laps.getByText(/\d+ of \d+ outside/)).toBeVisible();
  await expect(page.getByText(/5 in a data folder of \d/)).toBeVisible();
  await page.getByLabel("Search projects").fill("speed drummer 124");
  await expect(cards).toHaveCount(1);
  await expect(cards.first()).toContainText("Speed round");
  await page.getByLabel("Search projects").fill("");
  await page.getByRole("combobox").selectOption("name");
  await expect(cards.nth(1)).toContainText("Couples only, slow"); // after Closing time
  const more = async (name: string, item: string) => {
    await page.getByRole("button", { name: `More for ${name}`, exact: true }).click();
    await page.getByRole("menuitem", { name: item }).click();
  };
  await more("Couples only, slow", "Rename");
  await page.getByLabel("New name of Couples only, slow").fill("Für alle, 夜");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("listitem", { name: "Für alle, 夜", exact: true })).toBeVisible();
  await more("Für alle, 夜", "Duplicate");
  await expect(page.getByRole("listitem", { name: "Für alle, 夜 (copy)" })).toBeVisible();
  for (const name of ["Für alle, 夜 (copy)", "Für alle, 夜"]) {
    await more(name, "Delete");
    await page.getByRole("button", { name: "Delete", exact: true }).click();
    await expect(page.getByRole("listitem", { name, exact: true })).toHaveCount(0);
  }
  await page.goto(`${server.url}/p/gone/groove`);
  await expect(page.getByText("no longer there")).toBeVisible();
});

test("keys reach every view and their list", async ({ page, server }) => {
  await openView(page, server, "reference");
  for (const [key, heading] of [["2", "Kick"], ["3", "Groove A"], ["4", "Mix"], ["5", "Arrange"], ["6", "Compare"], ["7", "Export"], ["1", "Reference"]] as const) {
    await page.keyboard.press(key);
    await expect(page.getByRole("heading", { level: 1, name: heading })).toBeVisible();
  }
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
});

test("accessible and within its frame, by day and by night", async ({ page, server }) => {
  const problems: string[] = [];
  page.on("console", (m) => m.type() === "error" && problems.push(m.text()));
  page.on("pageerror", (e) => problems.push(e.message));
  for (const view of ["home", "reference", "sounds", "groove", "mix", "arrange", "compare", "export"]) {
    if (view === "home") await page.goto(server.url);
    else await openView(page, server, view);
    await page.waitForLoadState("networkidle");
    await passesAxe(page, `${view} by day`);
    await page.emulateMedia({ colorScheme: "dark" });
    await passesAxe(page, `${view} by night`, { rules: ["color-contrast"] });
    await page.emulateMedia({ colorScheme: "light" });
    for (const width of [1024, 1280]) {
      await page.setViewportSize({ width, height: 800 });
      const over = () =>
        page.evaluate(() => {
          const main = document.querySelector("main") ?? document.body;
          return Math.max(document.documentElement.scrollWidth - innerWidth, main.scrollWidth - main.clientWidth);
        });
      await expect.poll(over, { message: `${view} at ${width}` }).toBeLessThanOrEqual(0);
    }
  }
  expect(problems).toEqual([]);
});

test("a project is taken away and opened again from the list", async ({ page, server, request }) => {
  const id = await server.project("Warm-up laps");
  const archive = await (await request.get(`${server.url}/api/projects/${id}/export/project`)).body();
  await page.goto(server.url);
  await page.getByLabel("Project file").setInputFiles({ name: "warm-up-laps.jubrak", mimeType: "application/zip", buffer: archive });
  await expect(page.getByText(/“Warm-up laps” came in: 5 voices, \d+ hits, 0 recorded sounds, 1 reference\./)).toBeVisible();
  await expect(page.getByRole("listitem", { name: "Warm-up laps" })).toHaveCount(2);
  await page.getByRole("listitem", { name: "Warm-up laps" }).first().getByRole("button").first().click();
  await expect(page.locator('[data-fact="reference"]')).toContainText("92.0 BPM");
  await page.goto(server.url);
  await page.getByLabel("Project file").setInputFiles({ name: "laps.jubrak", mimeType: "application/zip", buffer: Buffer.from("no archive") });
  await expect(page.getByRole("alert")).toContainText("not a project archive");
});

test("exports say how far they are above full scale, and are lowered", async ({ page, server, request }) => {
  await openView(page, server, "sounds");
  await page.getByLabel("Recipe").getByRole("button", { name: "Voice", exact: true }).click();
  const gain = page.getByRole("region", { name: "Voice" }).getByRole("spinbutton", { name: "Level", exact: true });
  await gain.fill("12");
  await gain.press("Enter");
  await saved(page);
  await page.keyboard.press("Escape");
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press("7");
  await expect(page.getByText(/dB above full scale\. What lies beyond is cut off/)).toBeVisible();
  await expect(page.getByText(/samples beyond full scale/).first()).toBeVisible();
  await page.getByRole("button", { name: /^Lower by/ }).click();
  await expect(page.getByText(/are lowered by/)).toBeVisible();
  await expect(page.getByText(/samples beyond full scale/)).toHaveCount(0);
  const href = await page.getByRole("link", { name: "Download" }).first().getAttribute("href");
  const wav = await (await request.get(server.url + href)).body();
  let peak = 0;
  for (let at = 44; at + 2 < wav.length; at += 3) peak = Math.max(peak, Math.abs(wav.readIntLE(at, 3)));
  expect(peak / 8388608).toBeGreaterThan(0.95);
  expect(peak).toBeLessThan(8388607);
});
