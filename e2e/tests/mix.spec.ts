// The mix: chains on rows, keys, buses and sends, judging, systems, what builds a part of
// it, bounces and what is taken from another project.
import type { Page } from "@playwright/test";
import type { Server } from "../server.js";
import { alone, documentOf, expect, openView, saved, test } from "./base.js";
import { listen, sounding, struck, tap } from "./tap.js";

test.use({ bypassCSP: true });

interface Effect {
  id: string;
  kind: string;
  off: boolean;
  key?: string;
  values: Record<string, number>;
}

const name = "Warm-up laps";
const row = (page: Page, id: string) => page.locator(`[data-row="${id}"]`);

async function chain(server: Server, voice: string): Promise<Effect[]> {
  return (await documentOf(server, name)).kit.voices.find((v: { id: string }) => v.id === voice).chain;
}

async function addStep(page: Page, to: string, kind: RegExp) {
  await page.getByRole("button", { name: `Add an effect to ${to}` }).click();
  await page.getByRole("menuitem", { name: kind }).click();
  await saved(page);
}

/** What a stroke of a row sounds like at the worklet. */
const strike = (page: Page, id: string) => struck(page, () => row(page, id).locator("button").first().click());

test("effects are added, heard, moved, switched off, copied and undone", alone, async ({ page, server }) => {
  await openView(page, server, "mix");
  await row(page, "kick").locator("button").first().click();
  await tap(page);
  const plain = await strike(page, "kick");
  await addStep(page, "Kick", /^Clipper/);
  const panel = page.getByRole("region", { name: "Kick: Clipper" });
  const ceiling = panel.getByRole("spinbutton", { name: "Ceiling" });
  await ceiling.fill("-18");
  await ceiling.press("Enter");
  await saved(page);
  const clipped = await strike(page, "kick");
  expect(clipped, "it is cut at its ceiling").toBeLessThan(plain * 0.6);
  await expect(row(page, "kick").locator("[data-effect=clip1]")).toContainText("clip, hard");
  await row(page, "kick").locator("[data-effect=clip1]").click();
  await panel.getByRole("checkbox", { name: "Effect on" }).click();
  await expect.poll(async () => (await chain(server, "kick"))[0]?.off).toBe(true);
  expect(await strike(page, "kick"), "off, it is as before").toBeGreaterThan(plain * 0.9);
  await addStep(page, "Kick", /^Equalizer, 8/);
  await row(page, "kick").locator("[data-effect=equalizer1]").dragTo(row(page, "kick").locator("[data-effect=clip1]"), { targetPosition: { x: 4, y: 20 } });
  await expect.poll(async () => (await chain(server, "kick")).map((s) => s.id)).toEqual(["equalizer1", "clip1"]);
  await row(page, "kick").locator("[data-effect=equalizer1]").click();
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press("Alt+ArrowRight");
  await expect.poll(async () => (await chain(server, "kick")).map((s) => s.id)).toEqual(["clip1", "equalizer1"]);
  // The whole chain on another row, then only what must differ is changed.
  await row(page, "kick").locator("button").first().click();
  await page.getByRole("button", { name: "Copy", exact: true }).click();
  await row(page, "snare").locator("button").first().click();
  await page.getByRole("button", { name: "Paste", exact: true }).click();
  await expect.poll(async () => (await chain(server, "snare")).map((s) => s.kind)).toEqual(["clip", "equalizer"]);
  for (let i = 0; i < 3; i++) {
    await page.getByRole("button", { name: "Undo" }).click();
    await saved(page);
  }
  expect(await chain(server, "snare")).toEqual([]);
  expect((await chain(server, "kick")).map((s) => s.id)).toEqual(["clip1", "equalizer1"]);
  // Keys that come faster than answers: each takes one effect away.
  await row(page, "kick").locator("[data-effect=equalizer1]").click();
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  for (let i = 0; i < 3; i++) await page.keyboard.press("Delete");
  await expect.poll(async () => (await chain(server, "kick")).length).toBe(0);
  await expect(page.getByRole("alert")).toHaveCount(0);
});

test("an equalizer's band is dragged over what it does; a voice that is muted ducks another", async ({ page, server }) => {
  await openView(page, server, "mix");
  await addStep(page, "808", /^Equalizer, 8/);
  const bands = page.getByRole("group", { name: "Bands of the equalizer" });
  const dot = await bands.locator("circle").nth(1).boundingBox();
  if (!dot) throw new Error("no band");
  await page.mouse.move(dot.x + 6, dot.y + 6);
  await page.mouse.down();
  await page.mouse.move(dot.x - 40, dot.y + 26, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => (await chain(server, "808"))[0]?.values["band3.gain_db"]).toBeLessThan(-3);
  expect((await chain(server, "808"))[0]?.values["band3.hz"]).toBeLessThan(300);
  await expect(row(page, "808").locator("[data-effect=equalizer1]")).toContainText(/−\d.* dB at \d+ Hz/);
  await addStep(page, "808", /^Compressor/);
  await page.getByLabel("Sidechain", { exact: true }).selectOption({ label: "Kick" });
  await expect.poll(async () => (await chain(server, "808"))[1]?.key).toBe("kick");
  await expect(row(page, "808").locator("[data-effect=compressor1]")).toContainText("ducked by Kick");
  await row(page, "kick").locator("button").first().click();
  await page.getByRole("button", { name: "Mute", exact: true }).click();
  await row(page, "808").locator("[data-effect=compressor1]").click();
  await expect(page.getByLabel("Sidechain", { exact: true }).locator("option:checked")).toHaveText("Kick (muted)");
  // A number whose range is narrow goes in small steps, each of which is seen.
  await addStep(page, "Hat", /^Tape/);
  const wow = page.getByRole("spinbutton", { name: "Wow, weighted" });
  await expect(wow).toHaveValue("0.020");
  await wow.press("ArrowUp");
  await expect(wow).toHaveValue("0.025");
  await expect.poll(async () => (await chain(server, "hat"))[0]?.values.wow_weighted_percent).toBeCloseTo(0.025, 9);
});

test("buses, sends and effects within effects", async ({ page, server }) => {
  await openView(page, server, "mix");
  const doc = () => documentOf(server, name);
  await page.getByRole("button", { name: "Add a bus" }).click();
  await expect.poll(async () => (await doc()).kit.voices.map((v: { to: string }) => v.to)).toEqual(["drums", "drums", "drums", "drums", "drums"]);
  await page.getByLabel("808 goes to").selectOption({ label: "to output" });
  await page.getByRole("button", { name: "Add a bus" }).click();
  await row(page, "snare").locator("button").first().click();
  await page.getByLabel("Snare sends to").selectOption({ label: "Bus 2" });
  const later = page.getByRole("spinbutton", { name: "Send delay" });
  await later.fill("12");
  await later.press("Enter");
  await expect.poll(async () => (await doc()).kit.voices[1].sends).toMatchObject([{ to: "bus2", later_ms: 12 }]);
  await addStep(page, "Drums", /^Parallel/);
  await page.getByRole("button", { name: "Add an effect to copy" }).click();
  await page.getByRole("menuitem", { name: /^Compressor/ }).click();
  await expect.poll(async () => (await doc()).mix.buses[0].chain[0].paths[0].map((s: Effect) => s.kind)).toEqual(["compressor"]);
  await page.getByRole("button", { name: "within parallel" }).click();
  await expect(page.getByRole("region", { name: "Drums: Parallel" })).toBeVisible();
  await addStep(page, "Output", /^True-peak/);
  await expect(row(page, "out").locator("[data-effect=ceiling1]")).toContainText("−1 dBTP");
  await row(page, "bus:drums").locator("button").first().click();
  await page.getByRole("button", { name: "Remove the bus" }).click();
  await expect.poll(async () => (await doc()).kit.voices[0].to).toBe("");
});

test("bypassed at the same loudness, blind, and on a phone", alone, async ({ page, server }) => {
  await openView(page, server, "mix", "Speed round");
  await row(page, "snare").locator("[data-effect=compressor1]").click();
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  const on = await listen(page, 4000);
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press("b");
  await expect(page.getByRole("button", { name: "Bypassed" })).toBeVisible();
  await listen(page, 800);
  const off = await listen(page, 4000);
  expect(Math.abs(20 * Math.log10(off.rms / on.rms)), "no louder by much").toBeLessThan(2);
  await page.keyboard.press("b");
  await expect(page.getByRole("button", { name: "A/B", exact: true })).toBeVisible();
  await row(page, "snare").locator("button").first().click();
  await page.getByRole("button", { name: "Blind A/B" }).click();
  const blind = page.getByRole("group", { name: "Blind A/B" });
  await blind.getByRole("button", { name: "Play 2" }).click();
  for (let i = 0; i < 2; i++) await blind.getByRole("button", { name: "1 is bypassed" }).click();
  await expect(blind.getByRole("status")).toContainText(/[012] of 2 right; guessing/);
  await blind.getByRole("button", { name: "End" }).click();
  await page.getByLabel("Speaker simulation").selectOption({ label: "Phone" });
  await expect(page.getByRole("status", { name: "Lost on this speaker" })).toContainText("fundamental (49 Hz)");
  await listen(page, 800);
  const phone = await listen(page, 4000);
  expect(phone.rms, "the lows are gone").toBeLessThan(on.rms * 0.8);
  await page.keyboard.press("Space");
});

test("chains of the library, what builds a part of the mix, who covers whom", async ({ page, server }) => {
  await openView(page, server, "mix");
  const doc = () => documentOf(server, name);
  await row(page, "kick").locator("button").first().click();
  await page.getByRole("button", { name: "Chains", exact: true }).click();
  await page.getByRole("button", { name: "Kick: mono lows", exact: true }).click();
  await expect.poll(async () => (await chain(server, "kick")).map((s) => s.kind)).toEqual(["equalizer", "width", "reverb"]);
  // More effects than fit are reported, and gone to.
  await page.getByRole("button", { name: "Kick: mono lows after the present effects" }).click();
  await page.getByRole("button", { name: /^\d more of Kick to the right/ }).click();
  await expect(page.getByRole("button", { name: /^\d more of Kick to the left/ })).toBeVisible();
  await page.getByLabel("Name of this chain").fill("Rink kick");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("button", { name: /^Rink kick/ }).first()).toBeVisible();
  await page.getByLabel("Search chains").fill("rink");
  await expect(page.getByRole("list", { name: "Chains" }).getByRole("listitem")).toHaveCount(1);
  const build = async (what: RegExp) => {
    await page.getByRole("button", { name: "Build a part of the mix" }).click();
    await page.getByRole("menuitem", { name: what }).click();
    await saved(page);
  };
  await build(/^Overheads/);
  await build(/^A rumble of Kick/);
  await build(/^Complementary/);
  const d = await doc();
  expect(d.mix.buses.map((b: { name: string }) => b.name)).toEqual(["Overhead", "Room", "Rumble"]);
  expect(d.kit.voices[0].sends).toHaveLength(3);
  expect((await chain(server, "808")).at(-1)?.kind).toBe("equalizer");
  const cover = page.getByRole("button", { name: /^Cut \d dB in / }).first();
  await cover.click();
  await saved(page);
});

test("a number is drawn over the bars, and a space is gated", async ({ page, server }) => {
  await openView(page, server, "mix");
  const moves = async () => (await documentOf(server, name)).mix.automation;
  await row(page, "hat").locator("button").first().click();
  await page.getByLabel("Automate a parameter").selectOption({ label: "Level" });
  const plot = page.getByRole("img", { name: "Automation of Level" });
  await plot.scrollIntoViewIfNeeded();
  const box = await plot.boundingBox();
  if (!box) throw new Error("no plot");
  await page.mouse.click(box.x + box.width - 2, box.y + box.height - 6);
  await expect.poll(async () => (await moves())[0]?.points.at(-1).value).toBeLessThan(-50);
  expect((await moves())[0]).toMatchObject({ at: "hat/level_db" });
  await page.getByRole("button", { name: "Level stays where it is set" }).click();
  await expect.poll(async () => (await moves()).length).toBe(0);
  await addStep(page, "Snare", /^Reverb/);
  const panel = page.getByRole("region", { name: "Snare: Reverb" });
  const gate = panel.getByRole("spinbutton", { name: "Gate hold" });
  await gate.fill("300");
  await gate.press("Enter");
  await panel.getByLabel("Space").selectOption({ label: "plate" });
  await expect(row(page, "snare").locator("[data-effect=reverb1]")).toContainText("gated plate");
});

test("a chain that follows another one's, and a band that is heard alone", alone, async ({ page, server }) => {
  await openView(page, server, "mix");
  await addStep(page, "Kick", /^Equalizer, 8/);
  await row(page, "snare").locator("button").first().click();
  await page.getByLabel("Linked to the chain of").selectOption({ label: "Kick" });
  await expect.poll(async () => (await chain(server, "snare")).map((s) => s.kind)).toEqual(["equalizer"]);
  await row(page, "snare").locator("[data-effect=equalizer1]").click();
  const hz = page.getByRole("spinbutton", { name: "Frequency" });
  await hz.fill("140");
  await hz.press("Enter");
  await saved(page);
  await row(page, "kick").locator("[data-effect=equalizer1]").click();
  await hz.fill("35");
  await hz.press("Enter");
  await expect.poll(async () => (await chain(server, "kick"))[0]?.values["band2.hz"]).toBe(35);
  expect((await chain(server, "snare"))[0]?.values["band2.hz"], "but for what is its own").toBe(140);
  await row(page, "snare").locator("button").first().click();
  await expect(page.getByText("linked; 1 parameter of its own")).toBeVisible();
  // Alone, a band at 12 kHz leaves little of a kick.
  await row(page, "kick").locator("[data-effect=equalizer1]").click();
  await page.getByRole("group", { name: "Band" }).getByRole("button", { name: "7" }).click();
  await hz.fill("12000");
  await hz.press("Enter");
  for (const other of ["snare", "hat", "open", "808"]) {
    await row(page, other).locator("button").first().click();
    await page.getByRole("button", { name: "Mute", exact: true }).click();
    await saved(page);
  }
  await row(page, "kick").locator("[data-effect=equalizer1]").click();
  await page.getByRole("group", { name: "Band" }).getByRole("button", { name: "7" }).click();
  await page.keyboard.press("Space");
  await tap(page);
  await sounding(page);
  const all = (await listen(page, 2700)).rms;
  await page.getByRole("button", { name: "Solo band 7" }).click();
  await listen(page, 600);
  expect((await listen(page, 2700)).rms).toBeLessThan(all / 4);
  await page.getByRole("button", { name: "Clear solo of band 7" }).click();
  await listen(page, 600);
  expect((await listen(page, 2700)).rms).toBeGreaterThan(all / 2);
});

test("a row is bounced back as a voice; a mix comes from another project", async ({ page, server }) => {
  await openView(page, server, "mix");
  const doc = () => documentOf(server, name);
  await row(page, "snare").locator("button").first().click();
  await page.getByRole("button", { name: "To one sample" }).click();
  await expect(page.getByText("Snare bounce 1 is a voice of this kit now.")).toBeVisible();
  await page.getByRole("button", { name: "To one sample" }).click();
  await expect(page.getByText("Snare bounce 2 is a voice of this kit now.")).toBeVisible();
  expect((await doc()).kit.voices.map((v: { name: string }) => v.name).slice(-2)).toEqual(["Snare bounce 1", "Snare bounce 2"]);
  await expect(page.getByLabel("Does the tempo follow?"), "nothing to ask").toHaveCount(0);
  await page.getByLabel("Varispeed").fill("-2");
  await page.getByLabel("Does the tempo follow?").selectOption({ label: "tempo follows" });
  const bpm = (await doc()).tempo[0].bpm;
  await page.getByRole("button", { name: "To one sample" }).click();
  await expect.poll(async () => (await doc()).tempo[0].bpm).toBeCloseTo(bpm * 2 ** (-2 / 12), 6);
  expect((await doc()).kit.voices.at(-1).layers[0].pitch_st).toBe(-2);
  await page.getByRole("button", { name: "Build a part of the mix" }).click();
  await page.getByRole("menuitem", { name: /^From another/ }).click();
  await page.getByLabel("Project", { exact: true }).selectOption({ label: "Speed round" });
  await page.getByLabel("What is taken").selectOption({ label: "bus Drums with its rows" });
  await expect(page.getByRole("list", { name: "What comes along" })).toContainText("bus Drums: 0 dB, 4 effects");
  await page.getByRole("button", { name: "Use" }).click();
  await expect.poll(async () => (await doc()).mix.buses.map((b: { name: string }) => b.name)).toEqual(["Drums", "Room"]);
  expect((await chain(server, "hat")).map((s) => s.kind)).toEqual(["equalizer", "duck"]);
});
