import { execFileSync } from "node:child_process";
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
  await expect(page.getByText("lazy-88.flac is now the reference.")).toBeVisible();
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText(/8[78]\.\d+ ±\d\.\d+ BPM/);
  await expect(page.locator('[data-family="kick"]')).toBeVisible();
  await expect(page.locator('[data-family="snare"]')).toBeVisible();
  await expect(page.locator("[data-fact=reference]")).toContainText("88.0 BPM, 4/4");
  await page.getByRole("button", { name: "Take pattern and feel" }).click();
  await expect(page.getByRole("heading", { name: "Groove A" })).toBeVisible();
  await expect.poll(async () => (await documentOf(server, "Late skate")).tempo[0].bpm).toBeCloseTo(88, 0);
});

test("hits are in sight without scrolling", async ({ page, server }) => {
  await openView(page, server, "reference");
  const first = page.locator("[data-family]").first();
  for (const [width, height, top] of [
    [1280, 800, 280],
    [1024, 700, 320],
  ]) {
    await page.setViewportSize({ width, height });
    await expect(first).toBeVisible();
    await expect.poll(async () => (await first.boundingBox())?.y).toBeLessThanOrEqual(top);
    const box = await page.getByRole("main").first().boundingBox();
    expect((box?.x ?? 0) + (box?.width ?? 9999)).toBeLessThanOrEqual(width);
  }
});

test("what is heard of a long file shows while it is listened to", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  const long = info.outputPath("long.flac");
  const flags = ["-v", "error", "-stream_loop", "12", "-i", join(fixtures, "funk-102.flac"), "-t", "200", long];
  execFileSync("ffmpeg", flags);
  await page.getByLabel("Reference file").setInputFiles(long);
  const coming = page.getByRole("main", { name: "Importing" });
  await expect(coming.getByRole("img", { name: "Wave of the whole file" })).toBeVisible();
  await expect(coming.getByText("Its hits come next.")).toBeVisible();
  await expect(coming.getByRole("img", { name: /third octaves/ })).toBeVisible({ timeout: 60_000 });
  await expect(coming.getByRole("img", { name: /\d{2,} hits so far/ }).first()).toBeVisible({ timeout: 60_000 });
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByText("Cancelled. Nothing was changed.")).toBeVisible();
  await expect(coming).toBeHidden();
  expect((await documentOf(server, "Warm-up laps")).references.length).toBe(1);
});

test("of a file that is too long a stretch is chosen on its overview", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  const long = info.outputPath("all night.wav");
  const flags = ["-v", "error", "-stream_loop", "99", "-i", join(fixtures, "funk-102.flac"), "-t", "780", "-ac", "2", long];
  execFileSync("ffmpeg", flags);
  await page.getByLabel("Reference file").setInputFiles(long);
  const chooser = page.getByRole("dialog", { name: "Choose a stretch" });
  await expect(chooser).toBeVisible({ timeout: 90_000 });
  await expect(chooser).toContainText("13:00");
  const overview = chooser.getByRole("img", { name: /Overview/ });
  const place = await overview.boundingBox();
  if (!place) throw new Error("no overview");
  await page.mouse.click(place.x + place.width / 2, place.y + 50);
  await expect(overview).toHaveAccessibleName(/from 5:30 to 7:30/);
  await chooser.getByLabel("To", { exact: true }).fill("5:50");
  await chooser.getByLabel("To", { exact: true }).press("Enter");
  await expect(overview).toHaveAccessibleName(/from 5:30 to 5:50/);
  await chooser.getByRole("button", { name: "Listen to this stretch" }).click();
  await expect(page.getByText("all night.wav is now the reference.")).toBeVisible({ timeout: 90_000 });
  const reference = (await documentOf(server, "Warm-up laps")).references.at(-1);
  expect(reference.name).toBe("all night from 5:30");
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText(/\d+\.\d+ ±\d\.\d+ BPM/);
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
  await expect(page.getByRole("group", { name: "What is heard" }).getByRole("button", { name: "Reference" })).toBeDisabled();
});

test("rolls are named, and kept when the pattern is taken", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByLabel("Reference file").setInputFiles(join(fixtures, "../set/full-drum-and-bass-175.flac"));
  await expect(page.getByText("full-drum-and-bass-175.flac is now the reference.")).toBeVisible({ timeout: 90_000 });
  await expect(page.getByText(/Closed hat has 6 rolls in thirty-.*seconds and sixteenth triplets/)).toBeVisible();
  await expect(page.getByRole("row", { name: /^Rolls/ })).toContainText("6");
  await page.getByRole("button", { name: "Later bars" }).click();
  await expect(page.locator("[data-roll='8']")).toContainText("1/32");
  await page.getByRole("button", { name: "Pattern", exact: true }).click();
  const rolled = async () => {
    const lane = (await documentOf(server, "Warm-up laps")).groove.lanes.find((l: { voice: string }) => l.voice === "hat");
    return lane.hits.filter((h: { roll?: { strokes: number } }) => (h.roll?.strokes ?? 0) > 1).length;
  };
  await expect.poll(rolled).toBe(6);
});

test("bad files say what is wrong and change nothing", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  const flac = readFileSync(join(fixtures, "funk-102.flac"));
  const bad: [string, Buffer, RegExp][] = [
    ["picture.wav", Buffer.from("\x89PNG\r\n\x1a\n0000000000000", "latin1"), /not WAV, AIFF, FLAC or MP3/],
    ["empty.wav", Buffer.alloc(0), /empty/],
    ["stub.flac", flac.subarray(0, 12_000), /cut short|damaged/],
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

test("of a file that breaks off, what is there can be listened to", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  const flac = readFileSync(join(fixtures, "funk-102.flac"));
  const cut = info.outputPath("cut.flac");
  writeFileSync(cut, flac.subarray(0, Math.floor(flac.length / 2)));
  await page.getByLabel("Reference file").setInputFiles(cut);
  const chooser = page.getByRole("dialog", { name: "Choose a stretch" });
  await expect(chooser).toContainText(/cut short after \d+\.\d seconds. What lies before can be listened to/);
  await expect(chooser.getByRole("img", { name: /from 0:00 to 0:1\d is chosen/ })).toBeVisible();
  await chooser.getByRole("button", { name: "Listen to this stretch" }).click();
  await expect(page.getByText("cut.flac is now the reference.")).toBeVisible({ timeout: 90_000 });
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText(/10[12]\.\d+ ±/);
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
  await expect(kick).toHaveAttribute("aria-label", /Kick, (3[89]|4[0-2]) hits/);
  const count = Number((await kick.getAttribute("aria-label"))?.match(/\d+/)?.[0]);
  await kick.focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("region", { name: "Selected hit" })).toBeVisible();
  await page.getByLabel("Family").selectOption("tom");
  await expect(page.locator('[data-family="tom"]')).toHaveAttribute("aria-label", /Tom, 1 hits/);
  await expect(kick).toHaveAttribute("aria-label", new RegExp(`Kick, ${count - 1} hits`));
  await kick.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("x");
  await expect(kick).toHaveAttribute("aria-label", new RegExp(`Kick, ${count - 2} hits`));
  const box = await kick.locator("canvas").boundingBox();
  if (!box) throw new Error("no row");
  await page.mouse.dblclick(box.x + 0.41 * box.width, box.y + 20);
  await expect(kick).toHaveAttribute("aria-label", new RegExp(`Kick, ${count - 1} hits`));
});

test("a pickup before bar one is on show and can be chosen", async ({ page, server }, info) => {
  await openView(page, server, "reference");
  // The funk groove from beat three of its first bar on.
  const cut = info.outputPath("pickup.flac");
  execFileSync("ffmpeg", ["-v", "error", "-i", join(fixtures, "funk-102.flac"), "-ss", "1.3", cut]);
  await page.getByLabel("Reference file").setInputFiles(cut);
  await expect(page.getByText("pickup.flac is now the reference.")).toBeVisible({ timeout: 60_000 });
  await page.getByRole("button", { name: "Earlier bars" }).click();
  await expect(page.getByRole("button", { name: "Earlier bars" })).toBeDisabled();
  await page.locator('[data-family="snare"]').focus();
  await page.keyboard.press("ArrowRight");
  const time = page.getByRole("region", { name: "Selected hit" }).getByLabel("Time");
  await expect.poll(async () => Number(await time.inputValue())).toBeLessThan(0.5);
});

test("a covered hit says so, until it is moved by hand", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByLabel("Reference file").setInputFiles("../fixtures/set/dry-house-119.flac");
  await expect(page.getByText("dry-house-119.flac is now the reference.")).toBeVisible({ timeout: 60_000 });
  const shakers = page.locator('[data-family="shaker"]');
  const covered = async () => Number((await shakers.locator("xpath=..").innerText()).match(/(\d+)\s+covered/)?.[1] ?? 0);
  await expect.poll(covered).toBeGreaterThan(3);
  const before = await covered();
  const masked = page.getByText("Masked by another sound");
  await shakers.focus();
  for (let i = 0; i < 90 && !(await masked.isVisible()); i++) await page.keyboard.press("ArrowRight");
  await expect(masked).toBeVisible();
  await page.keyboard.press("Alt+ArrowRight");
  await expect(masked).toBeHidden();
  await expect.poll(covered).toBe(before - 1);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(covered).toBe(before);
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
  await expect(page.getByRole("progressbar", { name: "Progress" })).toBeVisible();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByText("Cancelled. Nothing was changed.")).toBeVisible();
  expect((await documentOf(server, "Late skate")).references.length).toBe(0);
});

test("tempo typed, meter, grid and bars left out are measured anew at once", async ({ page, server }) => {
  await openView(page, server, "reference");
  const corrections = async () => (await documentOf(server, "Warm-up laps")).references[0].corrections;
  const tempo = page.getByRole("row", { name: /^Tempo/ });
  await page.getByRole("main").getByRole("spinbutton", { name: "tempo" }).fill("61.3");
  await page.keyboard.press("Enter");
  await expect(tempo).toContainText("61.");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(tempo).toContainText("92.");
  await page.getByLabel("Meter", { exact: true }).selectOption("3/4");
  await expect(page.getByRole("list", { name: "In words" })).toContainText("in 3/4");
  await page.getByRole("button", { name: "Triplet" }).click();
  await expect.poll(async () => (await corrections()).map((c: any) => c.kind)).toEqual(["meter", "grid"]);
  await page.getByRole("button", { name: "Straight" }).click();
  await page.getByLabel("Meter", { exact: true }).selectOption("4/4");
  await expect(page.getByRole("list", { name: "In words" })).toContainText("in 4/4");
  await page.getByRole("button", { name: "Exclude bars" }).click();
  await expect(page.getByRole("button", { name: "Include bars" })).toBeVisible();
  expect((await corrections()).at(-1)).toMatchObject({ kind: "leave_out" });
  await page.getByRole("button", { name: "Include bars" }).click();
  await expect(page.getByRole("button", { name: "Exclude bars" })).toBeVisible();
});

test("a hit is moved and weighed by keys and by dragging", async ({ page, server }) => {
  await openView(page, server, "reference");
  const last = async () => (await documentOf(server, "Warm-up laps")).references[0].corrections.at(-1);
  const kick = page.locator('[data-family="kick"]');
  await kick.focus();
  const window = page.getByTestId("on-show");
  const from = (await window.boundingBox())?.x ?? 0;
  await page.keyboard.press("End");
  await expect.poll(async () => (await window.boundingBox())?.x, "the last hit is brought into sight").toBeGreaterThan(from + 50);
  await page.keyboard.press("Home");
  await expect.poll(async () => (await window.boundingBox())?.x).toBeLessThanOrEqual(from);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowUp");
  await expect.poll(async () => (await last())?.kind).toBe("weigh");
  await page.keyboard.press("Alt+ArrowRight");
  await expect.poll(async () => (await last())?.kind).toBe("move");
  const before = (await last()).time_s;
  await page.keyboard.press("Alt+ArrowRight");
  await expect.poll(async () => (await last()).time_s).toBeCloseTo(before + 0.001, 5);
  const head = kick.locator("[data-hit]").nth(2);
  const box = await head.boundingBox();
  if (!box) throw new Error("no hit");
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 2, box.y + 16, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await last()).kind).toBe("weigh");
});

test("wave or spectrogram, and the four plots", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "show spectrum" }).click();
  const picture = page.getByRole("img", { name: "Spectrogram of the stretch on show" });
  await expect(picture).toBeVisible();
  const painted = () =>
    picture.evaluate((el) => {
      const c = el as HTMLCanvasElement;
      const data = c.getContext("2d")?.getImageData(0, 0, c.width, c.height).data ?? [];
      return new Set(Array.from({ length: 400 }, (_, i) => data[i * 4 * 37])).size;
    });
  await expect.poll(painted).toBeGreaterThan(8);
  for (const [tab, name] of [
    ["Velocity", "Mean velocity by step"],
    ["Tempo", "Tempo bar by bar"],
    ["Spectrum", "Average spectrum in third octaves"],
    ["Feel", "Mean offset by step, in milliseconds"],
  ] as const) {
    await page.getByRole("group", { name: "Plot" }).getByRole("button", { name: tab, exact: true }).click();
    await expect(page.getByRole("img", { name })).toBeVisible();
  }
});

test("what was found is saved to the library, and a genre can be the target", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Library" }).click();
  const library = page.getByRole("dialog", { name: "Library" });
  await library.getByLabel("Name", { exact: true }).fill("Lazy skate");
  await library.getByLabel("Tags, with commas between").fill("rink, lazy");
  await library.getByRole("button", { name: "Save" }).click();
  await expect(library.getByRole("button", { name: /Lazy skate/ })).toBeVisible();
  await library.getByLabel("Search the library").fill("techno rumbling");
  await library.getByRole("button", { name: /Techno, rumbling/ }).click();
  await library.getByRole("button", { name: "Use as reference" }).click();
  await expect(library).toBeHidden();
  await expect(page.getByRole("heading", { name: "Techno, rumbling" })).toBeVisible();
  await expect(page.getByText("source: common practice")).toBeVisible();
  await page.getByRole("button", { name: "Take feel and tempo" }).click();
  await expect.poll(async () => (await documentOf(server, "Warm-up laps")).tempo[0].bpm).toBeGreaterThan(130);
  await page.keyboard.press("6");
  await expect(page.getByRole("heading", { level: 1, name: "Compare" })).toBeVisible();
  await expect(page.getByText(/\d+ of \d+ values outside/)).toBeVisible();
});

test("a saved profile keeps the tones of its drums, to build towards and to compare with", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Library" }).click();
  const library = page.getByRole("dialog", { name: "Library" });
  await library.getByLabel("Name", { exact: true }).fill("Rink tones");
  await library.getByRole("button", { name: "Save" }).click();
  await library.getByRole("button", { name: /Rink tones/ }).click();
  await library.getByRole("button", { name: "Use as reference" }).click();
  await expect(library).toBeHidden();
  await expect(page.getByRole("heading", { name: "Rink tones" })).toBeVisible();
  const tones = page.getByRole("table", { name: "Tones" });
  await expect(tones.getByRole("row", { name: /Kick/ })).toContainText(/5\d( to \d+)?/);
  await page.keyboard.press("2");
  await expect(page.locator('[data-target="Brightness"]')).toContainText(/\d+/);
  await page.getByRole("button", { name: /^Compare/ }).click();
  await page.getByRole("tab", { name: /^Tone/ }).click();
  await expect(page.locator('[data-row="brightness.kick"]')).toBeVisible();
});

test("a recording of one project is used in another", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Library" }).click();
  const library = page.getByRole("dialog", { name: "Library" });
  await library.getByRole("button", { name: "Recordings" }).click();
  await expect(library.getByRole("list", { name: "Recordings" }).getByRole("button")).toHaveCount(1);
  await expect(library.getByText("a recording of Speed round")).toBeVisible();
  await expect(library.getByText(/12[34]\.\d\d BPM in 4\/4/)).toBeVisible();
  await expect(library.getByRole("img", { name: "Wave of the recording" })).toBeVisible();
  await library.getByLabel("Search the library").fill("nowhere");
  await expect(library.getByText("Nothing fits. Try fewer words.")).toBeVisible();
  await library.getByLabel("Search the library").fill("speed");
  await library.getByRole("button", { name: "Use as reference" }).click();
  await expect(library).toBeHidden();
  await expect(page.getByRole("row", { name: /Tempo/ }).first()).toContainText(/12[34]\.\d+ ±/);
  expect((await documentOf(server, "Warm-up laps")).references.length).toBe(2);
  await page.getByRole("button", { name: "Library" }).click();
  await library.getByRole("button", { name: "Recordings" }).click();
  await expect(library.getByText(/No other project has a recording/)).toBeVisible();
});

test("cuts: taken away as WAV, and made the target that stands in Sounds", async ({ page, server, request }) => {
  await openView(page, server, "reference");
  await page.getByRole("group", { name: "Plot" }).getByRole("button", { name: "Cuts" }).click();
  const all = page.getByRole("link", { name: "All as WAV" });
  await expect(all).toBeVisible();
  const zip = await (await request.get(server.url + (await all.getAttribute("href")))).body();
  expect(zip.subarray(0, 2).toString()).toBe("PK");
  await page.getByLabel(/Make the Kick at .* the target of a voice/).first().selectOption({ label: "target of Kick" });
  await saved(page);
  await page.keyboard.press("2");
  await expect(page.locator('[data-target="Fundamental"]')).toContainText(/5\d\.\d/);
  await page.getByRole("button", { name: "no target" }).click();
  await expect(page.locator('[data-target="Fundamental"]')).toHaveCount(0);
});

test("keys of a MIDI file are filed anew, and the choice is kept for files to come", async ({ page, server, request }) => {
  await newProject(page, server);
  const id = await server.project("Warm-up laps");
  const midi = await (await request.get(`${server.url}/api/projects/${id}/export/midi`)).body();
  const bring = () => page.getByLabel("Reference file").setInputFiles({ name: "laps.mid", mimeType: "audio/midi", buffer: midi });
  await bring();
  await page.getByRole("group", { name: "Plot" }).getByRole("button", { name: "Keys" }).click();
  await page.getByLabel("Family of key 42").selectOption("shaker");
  await expect(page.locator('[data-family="shaker"]')).toBeVisible();
  await expect(page.locator('[data-family="hat_closed"]')).toHaveCount(0);
  await page.getByRole("button", { name: "Use for new MIDI files" }).click();
  await expect(page.getByText("New MIDI files will be read like this.")).toBeVisible();
  await bring();
  await expect.poll(async () => (await documentOf(server, "Late skate")).references.length).toBe(2);
  await expect(page.locator('[data-family="shaker"]')).toBeVisible();
  await page.keyboard.press("6");
  await page.getByLabel("What is compared").selectOption({ index: 1 });
  await expect(page.getByText(/0 of \d+ values outside/)).toBeVisible();
});

test("a stretch of any length is drawn on the overview, and a click goes back to bars", async ({ page, server }) => {
  await openView(page, server, "reference");
  const overview = page.getByRole("scrollbar", { name: /The whole recording/ });
  const box = await overview.boundingBox();
  if (!box) throw new Error("no overview");
  await page.mouse.move(box.x + 0.5 * box.width, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + 0.7 * box.width, box.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByTestId("stretch")).toBeVisible();
  await expect(page.getByRole("button", { name: /Listen to 4\.\d s/ })).toBeVisible();
  await page.mouse.click(box.x + 0.75 * box.width, box.y + 20);
  await expect(page.getByTestId("stretch")).toHaveCount(0);
  await expect(page.getByRole("button", { name: "Listen closely" })).toBeVisible();
  await expect(page.getByText("bar 7", { exact: true })).toBeVisible();
});
