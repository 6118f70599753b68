import type { Page } from "@playwright/test";
import { alone, documentOf, expect, openView, playsWhileHeld, saved, test } from "./base.js";
import { carried, listen, quiet, sounding, struck, tap } from "./tap.js";

// The tap behind the worklet is no script of the page.
test.use({ bypassCSP: true });

test("plays, moves, meters and stops; every source is heard at like loudness", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  const mine = await listen(page, 3000);
  expect(mine.frames).toBeGreaterThan(48000 * 2.5);
  expect(mine.peak).toBeGreaterThan(0.05);
  await expect(page.getByTestId("position")).not.toHaveText("1.1.1");
  await expect(page.getByTestId("meter")).toContainText(/−\d+\.\d LUFS/);
  await page.keyboard.press("m");
  await expect(page.getByRole("button", { name: "Reference", exact: true, pressed: true })).toBeVisible();
  await listen(page, 300); // what was on its way, and the fade
  const theirs = await listen(page, 3000);
  expect(theirs.peak).toBeGreaterThan(0.05);
  const apart = Math.abs(20 * Math.log10(theirs.rms / mine.rms));
  expect(apart, "RMS of the two, dB, at matched loudness").toBeLessThan(6);
  await page.keyboard.press("m");
  await listen(page, 300);
  const both = await listen(page, 3000);
  expect(both.rms).toBeGreaterThan(1.1 * Math.min(mine.rms, theirs.rms));
  await page.keyboard.press("Space");
  await quiet(page);
});

test("a click on a row's name plays the voice", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.getByTitle("Play Snare").click();
  await tap(page);
  await quiet(page);
  await sounding(page, { act: () => page.getByTitle("Play Kick").click() });
});

test("an edit is heard while it plays", alone, async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  const before = await listen(page, 2700);
  for (const voice of ["Kick", "Snare", "808"]) {
    await page.getByRole("tab", { name: voice }).click();
    await page.getByRole("button", { name: "Mute", exact: true }).click();
    await expect(page.getByRole("button", { name: "Unmute" })).toBeVisible();
  }
  await carried(page);
  await listen(page, 1200); // the click on a tab plays its voice
  const after = await listen(page, 2700);
  expect(after.rms).toBeLessThan(before.rms / 2);
  expect(after.peak).toBeGreaterThan(0.001);
  expect((await documentOf(server, "Warm-up laps")).kit.voices[0].mute).toBe(true);
});

test("from a click on a hit to sound", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.getByTitle("Play Kick").click();
  await tap(page);
  const head = await page.locator('[data-lane="snare"] [data-hit]').first().boundingBox();
  if (!head) throw new Error("no head");
  const times: number[] = [];
  for (let i = 0; i < 9; i++) {
    await quiet(page);
    await page.evaluate(() => {
      const w = window as any;
      w.latency = new Promise((done) => {
        addEventListener(
          "pointerdown",
          () => {
            const from = performance.now();
            w.tap.port.onmessage = (e: MessageEvent) => e.data.heard && done(performance.now() - from);
            w.tap.port.postMessage("arm");
          },
          { once: true, capture: true },
        );
      });
    });
    await page.mouse.click(head.x + head.width / 2, head.y + head.height / 2);
    times.push(await page.evaluate(() => (window as any).latency));
  }
  times.sort((a, b) => a - b);
  const median = times[7] ?? Number.POSITIVE_INFINITY;
  console.log(`click to sound: median ${median.toFixed(0)} ms, worst ${times.at(-1)?.toFixed(0)} ms`);
  // The aim is 150 ms; the bound leaves room for a busy machine.
  expect(median).toBeLessThan(300);
});

test("a slice of the reference is struck with a voice, alone and with a one-shot", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("group", { name: "Plot" }).getByRole("button", { name: "Cuts" }).click();
  await page.getByLabel(/Layer the Snare at/).first().selectOption({ label: "Snare" });
  await expect(page.getByText("Snare has one more layer.")).toBeVisible();
  await openView(page, server, "sounds");
  await page.getByRole("tab", { name: "Snare" }).click();
  const layer = page.getByRole("group", { name: /^Layer Rink drummer/ });
  await expect(layer).toBeVisible();
  await tap(page);
  const strike = () => struck(page, () => page.getByRole("tab", { name: "Snare" }).click());
  await page.getByRole("button", { name: "Mute Drum" }).click();
  await expect(page.getByRole("button", { name: "Unmute Drum" })).toBeVisible();
  const alone = await strike();
  expect(alone, "the layer by itself").toBeGreaterThan(0.01);
  await layer.getByRole("button", { name: /^Mute/ }).click();
  await saved(page);
  expect(await strike(), "nothing is left").toBeLessThan(1e-4);
  await layer.getByRole("button", { name: /^Unmute/ }).click();
  await page.getByLabel("One-shot file").setInputFiles({
    name: "stick.wav",
    mimeType: "audio/wav",
    buffer: await (await page.request.get(`${server.url}/api/projects/${await server.project("Warm-up laps")}/export/loop?format=wav16&bars=1`)).body(),
  });
  await expect(page.getByRole("group", { name: "Layer stick" })).toBeVisible();
  await page.getByRole("group", { name: "Layer stick" }).getByRole("button", { name: "Invert" }).click();
  await saved(page);
  expect(await strike()).toBeGreaterThan(alone * 1.1);
  const snare = (await documentOf(server, "Warm-up laps")).kit.voices.find((v: { id: string }) => v.id === "snare");
  expect(snare.layers.map((l: { flip: boolean }) => l.flip)).toEqual([false, false, true]);
  expect(snare.layers[0].mute).toBe(true);
  // What is no sound says so and changes nothing.
  await page.getByLabel("One-shot file").setInputFiles({ name: "a.wav", mimeType: "audio/wav", buffer: Buffer.from("no sound at all") });
  await expect(page.getByRole("alert")).toContainText(/not WAV, AIFF, FLAC or MP3/);
  await page.getByRole("group", { name: "Layer stick" }).getByRole("button", { name: /^Remove/ }).click();
  await expect(page.getByRole("group", { name: "Layer stick" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("group", { name: "Layer stick" })).toBeVisible();
});

const addSynth = async (page: Page) => {
  await page.getByRole("button", { name: "Add a layer" }).click();
  await page.getByRole("menuitem", { name: "A synth" }).click();
  await expect(page.getByRole("group", { name: "Layer Synth 2" })).toBeVisible();
};

test("several synthesized layers sound together, and each has its own numbers", alone, async ({ page, server }) => {
  await openView(page, server, "sounds");
  await addSynth(page);
  await expect(page.getByRole("button", { name: "Shape Synth 2" }), "what was added is to be shaped").toHaveAttribute("aria-pressed", "true");
  await page.getByRole("button", { name: "Shape Drum" }).click();
  await expect(page.getByRole("button", { name: "Shape Drum" })).toHaveAttribute("aria-pressed", "true");
  await page.getByRole("button", { name: "Shape Synth 2" }).click();
  const decay = page.getByLabel("Recipe").getByRole("spinbutton", { name: "Decay" }).first();
  await decay.fill("90");
  await decay.press("Enter");
  await saved(page);
  const [kick] = (await documentOf(server, "Warm-up laps")).kit.voices;
  expect(kick.layers.map((l: { recipe: { body: { decay_ms: number } } }) => l.recipe.body.decay_ms)).toEqual([420, 90]);
  await page.getByRole("tab", { name: "Kick" }).click(); // the sound starts with a stroke
  await tap(page);
  const strike = () => struck(page, () => page.getByRole("tab", { name: "Kick" }).click());
  const both = await strike();
  await page.getByRole("button", { name: "Mute Synth 2" }).click();
  await saved(page);
  expect(await strike(), "one alone is softer").toBeLessThan(both * 0.8);
});

test("layers that cancel say so, and are aligned in one action", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("tab", { name: "Snare" }).click();
  await addSynth(page);
  const layers = page.getByRole("region", { name: "Layers" });
  await page.getByRole("group", { name: "Layer Synth 2" }).getByRole("button", { name: "Invert" }).click();
  await expect(layers.getByText(/^Layers cancel: −\d+ dB at/)).toBeVisible();
  await layers.getByRole("button", { name: /^Align: .*inverted/ }).click();
  await expect(layers.getByText("No cancellation between layers.")).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(layers.getByText(/^Layers cancel: −\d+ dB at/), "undone").toBeVisible();
});

test("drums by themselves: heard alone and in place, split, taken as samples, made the target", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Drums" }).click();
  const kick = page.getByRole("region", { name: "Kick" });
  await expect(kick.getByText(/40 strokes, \d+ used/)).toBeVisible({ timeout: 60_000 });
  await expect(kick.getByText(/^Known to \d+ ms\./)).toBeVisible();
  await kick.getByRole("button", { name: "Hear Kick", exact: true }).click();
  await tap(page);
  await sounding(page, { above: 0.02, act: () => kick.getByRole("button", { name: "Hear Kick", exact: true }).click() });
  await quiet(page);
  await kick.getByRole("button", { name: "Hear Kick in place" }).click();
  await sounding(page, { above: 0.02 });
  await kick.getByRole("button", { name: "Stop Kick in place" }).click();
  await quiet(page);
  await kick.getByRole("button", { name: "Hear Kick in place" }).click();
  await sounding(page, { above: 0.02 });
  await page.getByRole("button", { name: "Hits", exact: true }).click();
  await quiet(page); // what a view let sound ends with it
  await expect(page.locator('[data-family="kick"]')).toBeVisible();
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Drums" }).click();
  const strokes = kick.getByRole("listbox", { name: "Strokes of Kick" });
  const out = strokes.getByRole("option", { name: /left out$/ });
  const box = await strokes.boundingBox();
  if (!box) throw new Error("no strokes");
  await page.mouse.move(box.x + box.width * 0.5, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + 10, { steps: 4 });
  await page.mouse.up();
  await expect(kick, "it stays in sight while it is worked out anew").toBeVisible();
  await expect.poll(() => out.count(), { timeout: 60_000 }).toBeGreaterThan(4);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(out).toHaveCount(0, { timeout: 60_000 });
  await strokes.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Enter");
  await expect(out).toHaveCount(1, { timeout: 60_000 });
  await page.getByLabel("Make Kick the target of a voice").selectOption({ label: "target of Kick" });
  await page.getByLabel("Take Snare as samples into a voice").selectOption({ label: "Snare" });
  await expect(page.getByText(/Snare plays the reference's drum/)).toBeVisible();
  await page.keyboard.press("2");
  await expect(page.locator('[data-target="Fundamental"]')).toContainText(/5\d\.\d/);
  await page.getByRole("tab", { name: "Snare" }).click();
  await expect(page.getByRole("group", { name: /^Layer Snare/ })).toHaveCount(2);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("group", { name: /^Layer Drum/ })).toBeVisible();
});

test("a voice is fitted to a drum of the reference: heard meanwhile, stopped, taken, undone", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Drums" }).click();
  await page.getByLabel("Fit a voice to Kick").selectOption({ label: "fit Kick to it" }, { timeout: 60_000 });
  const panel = page.getByRole("region", { name: "Fit", exact: true });
  await expect(panel.getByLabel("What it is fitted to")).toHaveValue("target");
  await panel.getByLabel("How many recipes are tried").selectOption("300");
  await panel.getByRole("button", { name: "Fit", exact: true }).click();
  await expect(panel.getByText(/dB away/)).toBeVisible();
  await expect(panel.getByText(/dB away, \d+ tried/)).toBeVisible({ timeout: 60_000 });
  await expect(panel.getByRole("table", { name: "Measures" })).toContainText("Fundamental");
  await panel.getByRole("button", { name: "Hear it" }).click();
  await tap(page);
  await sounding(page, { above: 0.02, act: () => panel.getByRole("button", { name: "Hear it" }).click() });
  await panel.getByRole("button", { name: "Use" }).click();
  await expect(page.getByText("Kick is fitted; an attempt of its own is kept.")).toBeVisible();
  await saved(page);
  const kick = async () => (await documentOf(server, "Warm-up laps")).kit.voices.find((v: { id: string }) => v.id === "kick");
  expect((await kick()).layers).toHaveLength(1);
  expect((await kick()).layers[0].recipe.curves.map((c: { id: string }) => c.id)).toContain("body-level");
  // The tries, and taking it, are one change; the target before is another.
  await page.getByRole("button", { name: "Undo" }).click();
  await saved(page);
  expect((await kick()).layers[0].recipe.curves.map((c: { id: string }) => c.id)).not.toContain("body-level");
  await page.getByRole("button", { name: "Redo" }).click();
  await saved(page);
  // A longer search is stopped: what is nearest stays to be taken; given up, all is as before.
  await panel.getByLabel("How many recipes are tried").selectOption("3000");
  await panel.getByRole("button", { name: "Fit", exact: true }).click();
  await expect(panel.getByText(/dB away/)).toBeVisible();
  await panel.getByRole("button", { name: "Stop and keep" }).click();
  await expect(panel.getByText(/^stopped, /)).toBeVisible();
  await panel.getByRole("button", { name: "Back to what was there" }).click();
  await saved(page);
  await panel.getByLabel("What is searched").selectOption("layers");
  await page.getByRole("tab", { name: "Snare" }).click();
  await page.getByRole("tab", { name: "Kick" }).click();
  await expect(panel.getByLabel("What is searched"), "what was asked for stays with the voice").toHaveValue("layers");
  await panel.getByRole("button", { name: "Fit", exact: true }).click();
  await expect(panel.getByRole("table", { name: "Sounds laid over each other" })).toBeVisible({ timeout: 60_000 });
  await panel.getByRole("button", { name: "Back to what was there" }).click();
  await panel.getByRole("button", { name: "Done" }).click();
  await expect(page.getByRole("button", { name: /^Fit to Kick/ })).toBeVisible();
  await page.getByRole("button", { name: "Find", exact: true }).click();
  await page.getByLabel("Order").selectOption({ label: "most like its target" });
  await expect(page.getByRole("listbox").getByText(/dB/).first()).toBeVisible();
});

test("a chain is fitted to the reference; a feel leans on a genre; a sound is brought into tones", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  await openView(page, server, "mix");
  await page.getByRole("button", { name: "Fit to the reference" }).click();
  const fitted = page.getByRole("region", { name: "Fitted chain" });
  await expect(fitted.getByText(/^Equalizer:/)).toBeVisible({ timeout: 60_000 });
  await fitted.getByRole("button", { name: "Append" }).click();
  await saved(page);
  const chains = (await documentOf(server, "Warm-up laps")).kit.voices.map((v: { chain: { kind: string }[] }) => v.chain.map((s) => s.kind));
  expect(chains.flat()).toContain("equalizer");
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Library" }).click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("is in the library now.")).toBeVisible({ timeout: 60_000 });
  await page.getByLabel("Lean on a genre").selectOption({ label: "Funk" });
  await expect(page.getByText(/Borrowed from the genre:/)).toBeVisible();
  await page.getByRole("button", { name: "Use as reference" }).click();
  await saved(page);
  await openView(page, server, "sounds");
  await page.getByRole("tab", { name: "Kick" }).click();
  await page.getByRole("group", { name: "Library" }).getByRole("button", { name: "Fit" }).click();
  const panel = page.getByRole("region", { name: "Fit", exact: true });
  const tones = panel.getByLabel("What it is fitted to").getByRole("option", { name: /^the tones of .*Funk/ });
  await panel.getByLabel("What it is fitted to").selectOption((await tones.textContent()) ?? "");
  await panel.getByRole("button", { name: "Bring it there" }).click();
  await expect(panel.getByRole("list", { name: "What was changed" })).toBeVisible();
});

test("a page that is held for longer than the lead does not starve the sound", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  expect(await page.evaluate(playsWhileHeld)).toBeGreaterThan(0.75);
});

test("what plays goes on when the server is there again", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  await server.stop("SIGKILL");
  await expect(page.getByText("Lost the connection; trying again…")).toBeVisible();
  const meter = await page.getByTestId("meter").boundingBox();
  expect((meter?.x ?? 0) + (meter?.width ?? 0), "the meter stays on the screen").toBeLessThanOrEqual(1280);
  await quiet(page);
  await server.start();
  await sounding(page);
  await expect(page.getByRole("button", { name: "Stop", exact: true })).toBeVisible();
  await expect(page.getByText("Lost the connection; trying again…")).toHaveCount(0);
});

test("windows beyond those that stream play over the socket", alone, async ({ context, server }) => {
  const windows: Page[] = [];
  const streams = (page: Page) => page.evaluate(() => (window as any).jubrakMonitor.streams as boolean);
  for (let i = 0; i < 4; i++) {
    const page = await context.newPage();
    windows.push(page);
    await openView(page, server, "groove");
    await page.keyboard.press("Space");
    await tap(page);
    await sounding(page);
    if (i < 3) await expect.poll(() => streams(page), { message: `window ${i + 1}` }).toBe(true);
  }
  const last = windows[3] as Page;
  expect(await streams(last)).toBe(false);
  // Everything else still reaches the server, and a place that is given back is taken at once.
  await last.getByTitle("Other random numbers, the same amounts").click();
  await carried(last);
  await windows[0]?.close();
  await expect.poll(() => streams(last), { message: "the place that is free" }).toBe(true);
});
