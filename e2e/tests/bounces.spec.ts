// Eight grooves as a practitioner makes them, with the screen alone, from an empty
// project. Each is held against the document that is kept of it, whose sound and
// timing the core's tests measure. JUBRAK_GOLDEN=write keeps what was made instead.
import { readFileSync, writeFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import type { Server } from "../server.js";
import { documentOf, expect, saved, test } from "./base.js";

interface Kept {
  tempo: { bpm: number }[];
  groove: {
    bars: number;
    feel: { swing_percent: number; voices: Record<string, object>; drift: object };
    lanes: { voice: string; steps: number; hits: Record<string, unknown>[] }[];
  };
}

/** What must be as it is kept; velocities drawn by hand may be a little off. */
function essence(d: Kept) {
  const { bars, feel, lanes } = d.groove;
  return {
    bpm: d.tempo[0]?.bpm,
    bars,
    swing: feel.swing_percent,
    voices: feel.voices,
    drift: feel.drift,
    lanes: lanes
      .filter((l) => l.hits.length > 0)
      .map((l) => ({ voice: l.voice, steps: l.steps, hits: l.hits.map(({ id: _, velocity: __, ...h }) => h) })),
  };
}

class Desk {
  constructor(
    readonly page: Page,
    readonly server: Server,
    readonly name: string,
  ) {}

  document = () => documentOf(this.server, this.name) as Promise<Kept>;

  async begin(kit: string, bpm: number, bars: number) {
    const { page } = this;
    await page.goto(this.server.url);
    await page.getByLabel("Name of the new project").fill(this.name);
    await page.getByRole("button", { name: "New project" }).click();
    await expect(page.getByLabel("Project name")).toHaveValue(this.name);
    await this.view("2");
    await page.getByRole("button", { name: "Kits", exact: true }).click();
    await page.getByRole("button", { name: `Use the kit ${kit}` }).click();
    await page.getByRole("button", { name: "Kits", exact: true }).click();
    await this.view("3");
    await this.number("Tempo", bpm);
    await this.number("Bars", bars);
  }

  async view(key: string) {
    await saved(this.page);
    await this.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await this.page.keyboard.press(key);
  }

  async number(label: string, value: number) {
    const field = this.page.getByRole("spinbutton", { name: label, exact: true });
    await field.fill(String(value));
    await field.press("Enter");
    await saved(this.page);
  }

  lane = (voice: string) => this.page.locator(`[data-lane="${voice}"]`);

  async right(panel: "Feel" | "Hits" | "Row") {
    await this.page.getByRole("group", { name: "At the right" }).getByRole("button", { name: panel }).click();
  }

  /** Chooses a row as one does, by its name. */
  async row(voice: string) {
    await this.lane(voice).focus();
  }

  /** Clicks hits into the bars in sight: a mark a step, its digit the height. */
  async draw(voice: string, marks: string) {
    const all = [...marks.replaceAll(" ", "")];
    await this.lane(voice).scrollIntoViewIfNeeded();
    const box = await this.lane(voice).locator("canvas").boundingBox();
    if (!box) throw new Error(`${voice} is not drawn`);
    const before = (await this.hits(voice)).length;
    for (const [i, mark] of all.entries()) {
      if (mark === ".") continue;
      const velocity = Number(mark) * 13 + 3;
      const x = box.x + 14 + ((box.width - 28) * i) / all.length;
      await this.page.mouse.click(x, box.y + 53 - (velocity / 127) * 44);
    }
    await expect.poll(async () => (await this.hits(voice)).length).toBe(before + all.filter((m) => m !== ".").length);
  }

  async hits(voice: string): Promise<Record<string, unknown>[]> {
    return (await this.document()).groove.lanes.find((l) => l.voice === voice)?.hits ?? [];
  }

  /** Clicks the n-th head of a row, so that the panel shows it. */
  async pick(voice: string, n: number) {
    await saved(this.page);
    const b = await this.lane(voice).locator("[data-hit]").nth(n).boundingBox();
    if (!b) throw new Error("no head");
    await this.page.mouse.click(b.x + b.width / 2, b.y + b.height / 2);
    await this.right("Hits");
  }

  async toggle(label: string) {
    await this.page.getByRole("checkbox", { name: label, exact: true }).click();
    await saved(this.page);
  }

  /** Held against what is kept, or kept. */
  async keep() {
    await saved(this.page);
    const path = `../core/export/testdata/bounces/${this.name}.json`;
    const made = await this.document();
    if (process.env.JUBRAK_GOLDEN === "write") writeFileSync(path, `${JSON.stringify(made)}\n`);
    const kept = JSON.parse(readFileSync(path, "utf8")) as Kept;
    expect(essence(made)).toEqual(essence(kept));
    for (const [i, lane] of made.groove.lanes.entries())
      for (const [k, hit] of lane.hits.entries())
        expect(Math.abs(Number(hit.velocity) - Number(kept.groove.lanes[i]?.hits[k]?.velocity))).toBeLessThanOrEqual(4);
  }
}

/** A bar of the demo as a loop to cut from. */
async function oneBar(server: Server) {
  const id = await server.project("Warm-up laps");
  const reply = await fetch(`${server.url}/api/projects/${id}/export/loop?format=wav16&bars=1`);
  return Buffer.from(await reply.arrayBuffer());
}

test("half-time at 124 with sixteenth-triplet rolls that fade, and an added snare", async ({ page, server }) => {
  const d = new Desk(page, server, "half-time-rolls");
  await d.begin("Half-time", 124, 2);
  await d.draw("kick", "9.....8......... 9..8......8.....");
  await d.draw("snare", "........9....... ........9.....7.");
  await d.draw("hat", "7.5.7.5.7.5.78.. 7.5.7.5.7.5.78..");
  for (const [n, velocity] of [
    [7, 30],
    [15, 20],
  ] as const) {
    await d.pick("hat", n);
    await page.getByRole("button", { name: "6 a beat" }).click();
    await d.number("Length", 3);
    await d.number("End velocity", velocity);
  }
  await d.number("Spacing ratio", 70);
  await d.keep();
});

test("an 808 at 148 that glides an octave up for a step and cuts itself, in key", async ({ page, server }) => {
  const d = new Desk(page, server, "gliding-808");
  await d.begin("Half-time", 148, 2);
  await page.getByLabel("Key", { exact: true }).fill("F minor");
  await page.keyboard.press("Enter");
  await d.view("2");
  await page.getByRole("tab", { name: "Driven low" }).click();
  const note = page.getByLabel("Note of the Driven low");
  await note.fill("F1");
  await note.press("Enter");
  await page.getByRole("button", { name: "Voice", exact: true }).click();
  for (const label of ["Monophonic", "Legato"])
    if (!(await page.getByRole("checkbox", { name: label }).isChecked())) await d.toggle(label);
  await d.view("3");
  await d.draw("kick", "9.........8..... 9...............");
  await d.draw("808", "9.....99........ 9...............");
  await d.right("Row");
  await d.pick("808", 0);
  await d.number("Length", 6);
  await d.number("Glide to the next", 60);
  await d.pick("808", 1);
  await d.number("Pitch", 12);
  await d.number("Length", 1);
  await d.number("Glide to the next", 60);
  await d.pick("808", 2);
  await d.number("Length", 3);
  await d.toggle("Stop at the end");
  await d.pick("808", 3);
  await d.number("Length", 4);
  await d.number("Pitch", 3);
  await d.toggle("Stop at the end");
  await d.keep();
});

test("four on the floor at 115 off the grid: claps early, hats late, shakers from a loop", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "off-the-grid");
  await d.begin("House lights", 115, 2);
  await d.view("2");
  await page.getByRole("tab", { name: "Seeds" }).click();
  await page.getByLabel("One-shot file").setInputFiles({ name: "shakers.wav", mimeType: "audio/wav", buffer: await oneBar(server) });
  await page.getByRole("button", { name: "Remove Seeds", exact: true }).click();
  await d.view("3");
  await d.draw("kick", "9...9...9...9... 9...9...9...9...");
  await d.draw("clap", "....8.......8... ....8.......8...");
  await d.draw("hat", "..6...6...6...6. ..6...6...6...6.");
  await d.draw("shaker", "6............... 6...............");
  await d.draw("cowbell", "...5.......5.... ...5.......5....");
  await d.row("clap");
  await d.number("Lean", -8);
  // The hats' by dragging the row's name: four pixels are a millisecond.
  const name = await page.getByTitle(/^Play Two noises/).boundingBox();
  if (!name) throw new Error("no name");
  await page.mouse.move(name.x + 40, name.y + 20);
  await page.mouse.down();
  await page.mouse.move(name.x + 84, name.y + 20, { steps: 8 });
  await page.mouse.up();
  await d.keep();
});

test("a lazy 93: kicks late until bar 4, a ghost, late hats, four claps in turn, a tambourine alone", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "lazy-93");
  await d.begin("Dust under the seats", 93, 4);
  await d.view("2");
  await page.getByRole("button", { name: "Add a voice" }).click();
  await page.getByRole("menuitem", { name: "Clap" }).click();
  for (let i = 0; i < 3; i++) {
    await page.getByRole("button", { name: "Add a layer" }).click();
    await page.getByRole("menuitem", { name: /^A synth/ }).click();
    await saved(page);
  }
  for (const [i, hz] of [900, 1300, 1800, 2600].entries()) {
    await page.getByRole("button", { name: /^Shape / }).nth(i).click();
    await page.getByRole("toolbar", { name: "Parts and effects" }).getByRole("button", { name: "Noise" }).click();
    await d.number("Filter frequency", hz);
    await page.getByRole("group", { name: "What is shaped" }).getByRole("button", { name: "Layer" }).click();
    await page.getByLabel("Plays on", { exact: true }).selectOption({ label: "in turn" });
    await saved(page);
  }
  await d.view("3");
  await d.draw("kick", "9......8.36..... 9......8..6..... 9......8..6..... 9......8..6.....");
  await d.draw("hat", "6.5.6.5.6.5.6.5. 6.5.6.5.6.5.6.5. 6.5.6.5.6.5.6.5. 6.5.6.5.6.5.....");
  await d.draw("clap", "....8.......8... ....8.......8... ....8.......8... ....8...........");
  await d.draw("tambourine", `${".".repeat(60)}6.6.`);
  await d.row("hat");
  await d.right("Feel");
  await d.number("Lean", 12);
  await d.row("kick");
  const curve = page.getByRole("img", { name: "Drift over bars" });
  await curve.scrollIntoViewIfNeeded();
  const box = await curve.boundingBox();
  if (!box) throw new Error("no curve");
  for (const [i, ms] of [14, 9.5, 4.5, 0].entries())
    await page.mouse.click(box.x + (box.width * (i + 0.5)) / 4, box.y + 26 - (ms / 30) * 22);
  await d.keep();
});

test("a hand drum in place of every second snare, bells for hats, the same bounce", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "hand-drum-and-bells");
  await d.begin("Hands and skins", 104, 2);
  await d.draw("kick", "9..7....9.6..... 9..7....9.6.....");
  await d.draw("snare", "....8.......8... ....8.......8...");
  await d.number("Swing", 57);
  await d.row("snare");
  await d.number("Lean", 9);
  await page.keyboard.press("Tab");
  await d.row("snare");
  await page.keyboard.press("a");
  await d.right("Hits");
  await page.getByLabel("Every second hit plays").selectOption({ label: "Open low" });
  await d.right("Row");
  await d.row("cowbell");
  await page.getByRole("button", { name: "Fill", exact: true }).click();
  await d.keep();
});

test("all sixteenths of all parts swung alike at 121", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "all-swung-alike");
  await d.begin("House lights", 121, 1);
  await d.number("Swing", 58);
  await d.row("hat");
  await d.number("Own swing", 52);
  await page.getByRole("button", { name: "Reset to shared swing" }).click();
  await expect(page.getByText("all voices use this swing")).toBeVisible();
  await d.right("Row");
  await page.getByLabel("Every so many steps").fill("1");
  for (const voice of ["kick", "snare", "clap", "hat", "open", "shaker", "conga", "cowbell"]) {
    await d.row(voice);
    await page.getByRole("button", { name: "Fill", exact: true }).click();
    await saved(page);
  }
  await d.keep();
});

test("a sparse 808 spaced as four chords, and an open hat backwards that ends on the beat", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "four-chords");
  await d.begin("Half-time", 140, 4);
  await page.getByLabel("Key", { exact: true }).fill("G minor");
  await page.keyboard.press("Enter");
  await d.view("2");
  await page.getByRole("tab", { name: "Driven low" }).click();
  const note = page.getByLabel("Note of the Driven low");
  await note.fill("G1");
  await note.press("Enter");
  await d.view("3");
  await d.right("Row");
  await d.row("808");
  await page.getByLabel("Chords").fill("Gm | . Eb | . Bb | F");
  await page.getByRole("button", { name: "Follow these roots" }).click();
  await d.draw("open", `${".".repeat(48)}9${".".repeat(15)}`);
  await d.pick("open", 0);
  await d.number("Length", 4);
  await d.toggle("Reverse");
  await d.keep();
});

test("a five-bar cycle against a four-bar one, kept as cycles and never unrolled", async ({ page, server }) => {
  test.skip(!process.env.JUBRAK_LONG, "one of the long ones: make test-long");
  const d = new Desk(page, server, "five-against-four");
  await d.begin("House lights", 122, 4);
  await d.draw("kick", "9...9...9...9... 9...9...9...9... 9...9...9...9... 9...9...9...9...");
  await d.right("Row");
  await d.row("cowbell");
  await d.number("Lane length", 80);
  await expect(page.getByText("full cycle 20 bars")).toBeVisible();
  await d.draw("cowbell", `5..5..5${".".repeat(57)}`); // of five bars the first four are in sight
  for (let i = 6; i < 68; i++) await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await d.hits("cowbell")).length).toBe(4);
  await d.keep();
});
