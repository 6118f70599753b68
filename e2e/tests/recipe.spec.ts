import type { Page } from "@playwright/test";
import { alone, documentOf, expect, openView, saved, test } from "./base.js";
import { carried, listen, struck, tap } from "./tap.js";

test.use({ bypassCSP: true });

const kick = async (server: Parameters<typeof documentOf>[0]) =>
  (await documentOf(server, "Warm-up laps")).kit.voices.find((v: { id: string }) => v.id === "kick");
const recipe = async (server: Parameters<typeof documentOf>[0]) => (await kick(server)).layers[0].recipe;

/** What a stroke of the kick sounds like at the worklet. */
const strike = (page: Page) => struck(page, () => page.getByRole("tab", { name: "Kick" }).click());

test("effects of colour: added, dragged, switched off, heard", alone, async ({ page, server }) => {
  await openView(page, server, "sounds");
  const bar = page.getByRole("toolbar", { name: "Parts and effects" });
  await bar.getByRole("button", { name: "Add an effect" }).click();
  await page.getByRole("menuitem", { name: /^Clipper/ }).click();
  await expect(bar.getByRole("button", { name: "hard clip" })).toHaveAttribute("aria-pressed", "true");
  const ceiling = page.getByRole("region", { name: "Clipper" }).getByRole("spinbutton", { name: "Ceiling" });
  await ceiling.fill("-14");
  await ceiling.press("Enter");
  await saved(page);
  expect((await recipe(server)).effects.map((s: { kind: string }) => s.kind)).toEqual(["drive", "filter", "clip"]);
  await page.getByRole("tab", { name: "Kick" }).click();
  await tap(page);
  const clipped = await strike(page);
  await page.getByRole("checkbox", { name: "Effect on" }).click();
  await saved(page);
  const plain = await strike(page);
  expect(clipped, "it is cut at its ceiling").toBeLessThan(plain * 0.6);
  await bar.getByRole("button", { name: "hard clip" }).dragTo(bar.getByRole("button", { name: "soft drive" }), { targetPosition: { x: 3, y: 10 } });
  await expect.poll(async () => (await recipe(server)).effects.map((s: { kind: string }) => s.kind)).toEqual(["clip", "drive", "filter"]);
  await bar.getByRole("button", { name: "hard clip" }).press("Alt+ArrowRight");
  await expect.poll(async () => (await recipe(server)).effects.map((s: { kind: string }) => s.kind)).toEqual(["drive", "clip", "filter"]);
  await page.getByRole("button", { name: "Remove this effect" }).click();
  await expect(bar.getByRole("button", { name: "hard clip" })).toHaveCount(0);
});

test("curves: drawn from the pitch, bent, one drives several numbers, counted in beats", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("group", { name: "Pitch over time" }).dblclick({ position: { x: 400, y: 30 } });
  const point = page.getByRole("button", { name: "Point 2 of Pitch", exact: true });
  await expect(point).toBeVisible();
  await expect(page.locator('[data-measure="Fundamental"]'), "it sounds as before").toHaveText(/46\.\d Hz/);
  const was = (await recipe(server)).curves.find((c: { name: string }) => c.name === "Pitch").points[1];
  await point.press("ArrowRight");
  await expect
    .poll(async () => (await recipe(server)).curves.find((c: { name: string }) => c.name === "Pitch").points[1].at)
    .toBeGreaterThan(was.at);
  const box = await page.getByRole("button", { name: "Point 1 of Pitch", exact: true }).boundingBox();
  if (!box) throw new Error("no point");
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 6, box.y + 46, { steps: 6 });
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await saved(page);
  expect((await recipe(server)).curves.find((c: { name: string }) => c.name === "Pitch").points[0].value, "a cancelled drag leaves no trace").toBe(1);
  // The curve of the dirt drives a second number.
  await page.getByRole("region", { name: "Body" }).getByRole("button", { name: "Modulation of Level" }).click();
  await page.getByRole("menuitem", { name: /Follow Dirt/ }).click();
  await expect(page.getByText(/body level/)).toBeVisible();
  await page.getByRole("button", { name: "What Dirt modulates" }).click();
  await page.getByRole("menuitem", { name: /Count in beats/ }).click();
  await expect.poll(async () => (await recipe(server)).curves.find((c: { name: string }) => c.name === "Dirt").unit).toBe("beats");
  const dirt = (await recipe(server)).curves.find((c: { name: string }) => c.name === "Dirt");
  expect((await recipe(server)).modulations.filter((m: { by: string }) => m.by === dirt.id)).toHaveLength(2);
  await page.getByRole("button", { name: "Remove Dirt" }).click();
  await saved(page);
  expect((await recipe(server)).curves.map((c: { name: string }) => c.name)).toEqual(["Pitch"]);
  // Velocity moves a number.
  await page.getByRole("region", { name: "Body" }).getByRole("button", { name: "Modulation of Decay" }).click();
  await page.getByRole("menuitem", { name: /Velocity modulation/ }).click();
  await saved(page);
  expect((await recipe(server)).modulations).toContainEqual({ by: "velocity", at: "body.decay_ms", from: -12, to: 12 });
});

test("find: heard in place by arrow keys, brought back or taken; saved and found again", async ({ page, server }) => {
  await openView(page, server, "sounds");
  const before = (await recipe(server)).body;
  await page.getByRole("button", { name: "Find", exact: true }).click();
  const list = page.getByRole("listbox", { name: "Sounds of the library" });
  await expect(list.getByRole("option").first()).toContainText(/dB/);
  await page.getByLabel("Words").fill("hard short");
  await expect(list.getByRole("option")).toHaveCount(2);
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await expect.poll(async () => (await recipe(server)).body.end_hz).not.toBe(before.end_hz);
  await page.keyboard.press("Escape");
  await expect.poll(async () => (await recipe(server)).body).toEqual(before);
  await page.getByRole("button", { name: "Find", exact: true }).click();
  await page.getByLabel("Words").fill("toe");
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await expect(list.getByRole("option", { selected: true })).toContainText("Toe stop");
  await page.keyboard.press("Enter");
  await expect(list).toHaveCount(0);
  await expect.poll(async () => (await kick(server)).layers[0].name).toBe("Toe stop");
  await page.getByRole("button", { name: "Find", exact: true }).click();
  await page.getByLabel("Name in the library").fill("My stop");
  await page.getByRole("button", { name: "Save Kick" }).click();
  await page.getByLabel("Words").fill("my stop");
  await expect(list.getByRole("option")).toHaveCount(1);
  await expect(list.getByRole("option")).toContainText("mine");
  await page.getByRole("button", { name: "Remove My stop from the library" }).click();
  await expect(list.getByRole("option")).toHaveCount(0);
  await page.getByRole("button", { name: "Done" }).click();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => (await kick(server)).layers[0].name, "all that was tried is one step").toBe("Drum");
});

test("make many: heard, kept, and taken away with numbers that go on", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Make variants" }).click();
  const many = page.getByRole("region", { name: "Make variants" });
  const count = many.getByRole("spinbutton", { name: "How many" });
  await count.fill("5");
  await count.press("Enter");
  await many.getByRole("button", { name: "Make", exact: true }).click();
  const list = many.getByRole("listbox", { name: "Variants" });
  await expect(list.getByRole("option")).toHaveCount(5);
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await expect.poll(async () => (await recipe(server)).body.end_hz).not.toBe(46.2);
  for (const n of [2, 4]) await many.getByRole("checkbox", { name: `Keep number ${n}` }).check();
  for (const name of [/001-002/, /003-004/]) {
    const [file] = await Promise.all([page.waitForEvent("download"), many.getByRole("button", { name: "Export as numbered files" }).click()]);
    expect(file.suggestedFilename()).toMatch(name);
  }
  await many.getByRole("button", { name: "Save 2 to library" }).click();
  await expect(page.getByText("2 sounds are in the library.")).toBeVisible();
  await list.focus();
  await page.keyboard.press("Escape");
  await expect.poll(async () => (await recipe(server)).body.end_hz).toBe(46.2);
});

test("kits: exchanged, lanes follow by family, what finds no place is reported; saved", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Kits" }).click();
  await page.getByRole("button", { name: "Use the kit Slab" }).click();
  await expect(page.getByText(/808.* no matching voice in this kit/)).toBeVisible();
  const d = await documentOf(server, "Warm-up laps");
  expect(d.kit.voices[0].name).toBe("Techno slab");
  expect(d.groove.lanes.find((l: { voice: string }) => l.voice === "kick").hits.length).toBeGreaterThan(1);
  expect(d.groove.lanes.find((l: { voice: string }) => l.voice === "snare").hits.length, "the clap plays the snare's hits").toBeGreaterThan(1);
  expect(d.kit.voices.find((v: { id: string }) => v.id === "snare").family).toBe("clap");
  await page.getByLabel("Name of the kit").fill("Mine now");
  await page.getByRole("button", { name: "Save this kit" }).click();
  await expect(page.getByRole("button", { name: "Use the kit Mine now", exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("tab", { name: "808" })).toBeVisible();
});

test("a rumble, a borrowed attack, turns, choke and a gate", alone, async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Add a layer" }).click();
  await page.getByRole("menuitem", { name: /A rumble/ }).click();
  const panel = page.getByLabel("Recipe");
  await expect(panel.getByRole("spinbutton", { name: "Duck amount" })).toBeVisible();
  await page.getByRole("tab", { name: "Kick" }).click();
  await tap(page);
  await carried(page);
  await page.getByRole("tab", { name: "Kick" }).click();
  await listen(page, 900);
  expect((await listen(page, 300)).peak, "it rumbles on where the kick is long over").toBeGreaterThan(0.003);
  await page.getByRole("button", { name: "Shape Drum" }).click();
  await panel.getByRole("button", { name: "Layer", exact: true }).click();
  await panel.getByLabel("Borrow the attack of").selectOption({ label: "Snare" });
  await expect(panel.getByRole("button", { name: "Original attack" })).toBeVisible();
  await panel.getByLabel("Plays on").selectOption({ label: "every nth hit" });
  await expect(panel.getByRole("spinbutton", { name: "Nth hit" })).toBeVisible();
  await panel.getByRole("button", { name: "Voice", exact: true }).click();
  await panel.getByRole("button", { name: "Snare" }).click();
  await panel.getByLabel("Gate opened by").selectOption({ label: "Hat" });
  await expect(panel.getByRole("spinbutton", { name: "Threshold" })).toBeVisible();
  await saved(page);
  const v = await kick(server);
  expect(v.cut_by).toEqual(["snare"]);
  expect(v.gate.by).toBe("hat");
  expect(v.layers[0].attack.length_ms).toBe(5);
  expect(v.layers[0].turn).toBe(3);
  expect(v.layers[1].rumble.decay_ms).toBe(2500);
});

test("attempts, layers and effects are judged at the same loudness, and slowed down", alone, async ({ page, server }) => {
  await openView(page, server, "sounds");
  const attempts = page.getByRole("group", { name: "Attempts" });
  await attempts.getByRole("button", { name: "Keep this attempt" }).click();
  await expect(attempts.getByRole("button", { name: "Attempt 1" })).toBeVisible();
  const level = page.getByRole("region", { name: "Body" }).getByRole("spinbutton", { name: "Level", exact: true });
  await level.fill("-12");
  await level.press("Enter");
  await saved(page);
  await attempts.getByRole("button", { name: "Attempt 1" }).click();
  await expect(attempts.getByText(/as loud as now, by −\d/)).toBeVisible();
  await expect.poll(async () => (await recipe(server)).body.level_db).toBe(0);
  expect((await kick(server)).layers[0].level_db, "turned down to be as loud").toBeLessThan(-3);
  await attempts.getByRole("button", { name: "now" }).click();
  await expect.poll(async () => (await recipe(server)).body.level_db).toBe(-12);
  expect((await kick(server)).layers[0].level_db).toBe(0);
  await attempts.getByRole("button", { name: "Attempt 1" }).click();
  await attempts.getByRole("button", { name: "Use" }).click();
  await expect.poll(async () => [(await recipe(server)).body.level_db, (await kick(server)).layers[0].level_db]).toEqual([0, 0]);
  // A step, off and on.
  await page.getByRole("toolbar", { name: "Parts and effects" }).getByRole("button", { name: "soft drive" }).click();
  const panel = page.getByRole("region", { name: "Drive" });
  await panel.getByRole("button", { name: "Off/on" }).click();
  await expect.poll(async () => (await recipe(server)).effects[0].off).toBe(true);
  expect((await kick(server)).layers[0].level_db).not.toBe(0);
  await panel.getByRole("button", { name: "Off/on" }).click();
  await expect.poll(async () => [(await recipe(server)).effects[0].off, (await kick(server)).layers[0].level_db]).toEqual([false, 0]);
  // Slower: seen and heard.
  await page.getByLabel("Speed of the sound").selectOption("8");
  await expect(page.getByText("50.0 ms")).toBeVisible();
  await tap(page);
  expect((await listen(page, 1500)).peak).toBeGreaterThan(0.02);
  await page.getByLabel("Speed of the sound").selectOption("1");
  await expect(page.getByText("400 ms")).toBeVisible();
});

test("a wave is drawn, and a gate is seen on its recording", async ({ page, server }) => {
  await openView(page, server, "sounds");
  const body = page.getByRole("region", { name: "Body" });
  await body.getByLabel("Wave", { exact: true }).selectOption({ label: "drawn" });
  await body.getByRole("button", { name: "square" }).click();
  const pad = body.getByRole("img", { name: /One period/ });
  await saved(page);
  await pad.hover(); // it stays where it is
  const box = await pad.boundingBox();
  if (!box) throw new Error("no pad");
  await page.mouse.move(box.x + 10, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 100, box.y + box.height - 10, { steps: 8 });
  await page.mouse.up();
  const drawn = async () => (await recipe(server)).body.cycle as number[];
  await expect.poll(async () => (await drawn())[20], "drawn").toBeLessThan(0);
  await saved(page);
  const cycle = await drawn();
  expect(cycle).toHaveLength(64);
  expect((await pad.boundingBox())?.y, "what is measured moves nothing under the hand").toBe(box.y);
  expect(cycle[60], "of the square").toBe(-1);
  await page.getByLabel("One-shot file").setInputFiles({
    name: "loop.wav",
    mimeType: "audio/wav",
    buffer: await (await page.request.get(`${server.url}/api/projects/${await server.project("Warm-up laps")}/export/loop?format=wav16&bars=1`)).body(),
  });
  const layer = page.getByRole("region", { name: "Layer" });
  await expect(layer.getByRole("img", { name: "The recording" })).toBeVisible();
  await layer.getByRole("checkbox", { name: "Gate" }).click();
  await expect(layer.getByRole("img", { name: /what the gate cuts/ })).toBeVisible();
  await expect(layer.getByRole("spinbutton", { name: "Threshold" })).toBeVisible();
  await layer.getByRole("button", { name: "Trim and level" }).click();
  await expect.poll(async () => (await kick(server)).layers[1].recording.gain_db).not.toBe(0);
});
