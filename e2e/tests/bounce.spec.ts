// Programming a groove with all that a hit can have, and the panels around it.
import { alone, documentOf, expect, openView, saved, test } from "./base.js";
import { quiet, sounding, tap } from "./tap.js";

// The tap behind the worklet is no script of the page.
test.use({ bypassCSP: true });

interface Hit {
  id: string;
  tick: number;
  velocity: number;
  semitones: number;
  length_ticks?: number;
  of?: number;
  sound?: string;
  roll?: { per_beat?: number };
  flam?: { strokes?: number };
}

const name = "Warm-up laps";

test("rolls, flams, ghosts, drops and another sound, by keys and by hand", async ({ page, server }) => {
  await openView(page, server, "groove");
  const lane = async (voice: string): Promise<Hit[]> =>
    (await documentOf(server, name)).groove.lanes.find((l: { voice: string }) => l.voice === voice).hits;
  const hat = page.locator('[data-lane="hat"]');
  await hat.focus();
  await page.keyboard.press("g");
  await page.keyboard.press("r");
  await expect.poll(async () => (await lane("hat"))[0]).toMatchObject({ tick: 0, velocity: 40, roll: { per_beat: 8 } });
  const before = (await lane("hat")).length;
  await page.keyboard.press("o");
  await expect.poll(async () => (await lane("hat")).length, "a roll over a sixteenth is two thirty-seconds").toBe(before + 1);
  expect((await lane("hat"))[1]?.tick).toBe(120);
  await page.keyboard.press("d");
  await expect.poll(async () => (await lane("hat"))[0]?.of).toBe(1);
  await page.locator('[data-lane="snare"]').focus();
  await page.keyboard.press("a");
  await page.keyboard.press("Shift+r");
  await expect.poll(async () => (await lane("snare")).every((h) => h.flam?.strokes === 1)).toBe(true);
  // A hand drum takes the snare's place half of the time, and nothing is redrawn.
  await page.getByRole("button", { name: /^Hits \d/ }).click();
  await page.getByLabel("Every second hit plays").selectOption({ label: "Open hat" });
  await expect
    .poll(async () => (await lane("snare")).map((h) => h.sound ?? ""))
    .toEqual((await lane("snare")).map((_, i) => (i % 2 === 1 ? "open" : "")));
  // A roll drawn by dragging; its end is softer.
  await page.getByRole("button", { name: "Roll", exact: true }).click();
  const row = page.locator('[data-lane="open"] canvas');
  const box = await row.boundingBox();
  if (!box) throw new Error("the row is not drawn");
  await page.mouse.move(box.x + box.width * 0.3, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.42, box.y + 48, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => (await lane("open")).filter((h) => h.roll?.per_beat === 8).length).toBe(1);
  // The row gets a length of its own and shows when it begins again.
  await page.getByRole("button", { name: "Row", exact: true }).click();
  await page.locator('[data-lane="kick"]').focus();
  const steps = page.getByRole("spinbutton", { name: "Lane length" });
  await steps.fill("12");
  await steps.press("Enter");
  await expect(page.getByText("full cycle 6 bars")).toBeVisible();
});

test("an 808 on its ladder: notes, chords, octaves", async ({ page, server }) => {
  await openView(page, server, "groove");
  const bass = async (): Promise<Hit[]> =>
    (await documentOf(server, name)).groove.lanes.find((l: { voice: string }) => l.voice === "808").hits;
  await page.getByRole("button", { name: "Row", exact: true }).click();
  await page.locator('[data-lane="808"]').focus();
  await page.getByRole("button", { name: "Notes", exact: true }).click();
  const ladder = page.locator('[data-ladder="808"]');
  await expect(ladder).toBeVisible();
  await page.getByLabel("Chords").fill("Fm | Db . Ab");
  await page.getByRole("button", { name: "Follow these roots" }).click();
  await expect.poll(async () => (await bass()).map((h) => h.semitones)).toEqual([0, 0, -4, -4]);
  const box = await ladder.boundingBox();
  if (!box) throw new Error("the ladder is not drawn");
  const count = (await bass()).length;
  await page.mouse.move(box.x + box.width * 0.2, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.32, box.y + 10, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await bass()).length).toBe(count + 1);
  const drawn = (await bass()).find((h) => (h.length_ticks ?? 0) > 0);
  expect(drawn?.semitones).toBeGreaterThan(11);
  expect(drawn?.length_ticks).toBeGreaterThanOrEqual(480);
  await page.locator('[data-lane="808"]').focus();
  await page.keyboard.press("a");
  await page.keyboard.press("PageDown");
  await expect.poll(async () => (await bass())[0]?.semitones).toBe(-12);
});

test("variations begin on the bar and are named in numbers; ideas are taken in part", async ({ page, server }) => {
  await openView(page, server, "groove");
  const doc = () => documentOf(server, name);
  await page.getByRole("button", { name: "Another variation" }).click();
  await expect.poll(async () => (await doc()).variation).toBe("b");
  await page.getByRole("button", { name: "Ideas" }).click();
  await page.getByRole("button", { name: "Mute a bar's kick" }).click();
  await page.getByRole("button", { name: "Suggest" }).click();
  const list = page.getByRole("region", { name: "Ideas for a variation" }).getByRole("checkbox");
  await expect.poll(() => list.count()).toBeGreaterThan(2);
  await list.nth(1).click(); // all but the first stay; the first box is "only this row"
  await page.getByRole("button", { name: /^Apply \d+$/ }).click();
  const dropped = async () =>
    (await doc()).groove.lanes.flatMap((l: { hits: Hit[] }) => l.hits).filter((h: Hit) => h.of === 1).length;
  await expect.poll(dropped).toBeGreaterThan(0);
  await page.getByRole("button", { name: "Variations", exact: true }).click();
  await expect(page.getByRole("region", { name: "Variations in numbers" })).toContainText("A is ");
  await page.keyboard.press("Space");
  await expect.poll(async () => Number((await page.getByTestId("position").textContent())?.split(".")[1])).toBeGreaterThan(1);
  await page.getByRole("button", { name: "A", exact: true }).click();
  await expect.poll(async () => (await doc()).variation).toBe("a");
  expect(await dropped()).toBe(0);
  await page.keyboard.press("Space");
});

test("grooves are heard with this kit before one is taken", async ({ page, server }) => {
  await openView(page, server, "groove");
  const groove = async () => (await documentOf(server, name)).groove;
  const was = await groove();
  await page.getByRole("button", { name: "Grooves", exact: true }).click();
  await page.getByLabel("Search grooves").fill("house swung");
  const list = page.getByRole("listbox", { name: "Grooves" });
  await expect.poll(() => list.getByRole("option").count()).toBeGreaterThan(3);
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await expect.poll(async () => JSON.stringify((await groove()).lanes)).not.toBe(JSON.stringify(was.lanes));
  await page.keyboard.press("ArrowDown");
  await saved(page);
  await page.keyboard.press("Escape");
  await expect.poll(async () => JSON.stringify((await groove()).lanes.map((l: { hits: Hit[] }) => l.hits.length))).toBe(
    JSON.stringify(was.lanes.map((l: { hits: Hit[] }) => l.hits.length)),
  );
  expect((await groove()).feel.swing_percent).toBe(was.feel.swing_percent);
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await saved(page);
  expect((await groove()).bars).toBeGreaterThanOrEqual(1);
});

test("bars go round, the feel is off and on, and what is played is taken", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  const lane = async (voice: string): Promise<Hit[]> =>
    (await documentOf(server, name)).groove.lanes.find((l: { voice: string }) => l.voice === voice).hits;
  await page.getByLabel("Loop start").fill("2");
  await page.keyboard.press("Tab");
  await page.locator('[data-lane="kick"]').focus();
  await page.keyboard.press("Space");
  const bar = async () => (await page.getByTestId("position").textContent())?.split(".")[0];
  await expect.poll(bar).toBe("2");
  // What the position shows until the loop has begun anew twice.
  const shown = await page.getByTestId("position").evaluate(
    (el) =>
      new Promise<string[]>((done) => {
        const seen: string[] = [];
        const watch = new MutationObserver(() => {
          if (el.textContent !== seen.at(-1)) seen.push(el.textContent ?? "");
          if (seen.filter((s, i) => s < (seen[i - 1] ?? "")).length < 2) return;
          watch.disconnect();
          done(seen);
        });
        watch.observe(el, { characterData: true, childList: true, subtree: true });
      }),
  );
  expect(shown.map((s) => s.split(".")[0]), "only bar 2").toEqual(shown.map(() => "2"));
  await page.keyboard.press("e");
  await expect(page.getByRole("button", { name: "It is off: on" })).toBeVisible();
  await page.keyboard.press("e");
  await page.getByRole("button", { name: "Record live" }).click();
  const before = (await lane("open")).length;
  await page.getByRole("button", { name: "Record", exact: true }).click();
  for (let i = 0; i < 3; i++) {
    const at = await page.getByTestId("position").textContent();
    await page.keyboard.press("v"); // the fourth row
    await expect.poll(() => page.getByTestId("position").textContent(), "it plays on").not.toBe(at);
  }
  await expect.poll(async () => (await lane("open")).length).toBeGreaterThan(before);
  expect((await lane("open")).filter((h) => h.tick >= 3840).length, "where it was playing").toBeGreaterThan(0);
  await page.getByRole("button", { name: "Erase", exact: true }).click();
  await page.keyboard.down("v");
  // While it is held, all that passes goes: after a bar at 92 BPM nothing is left of bar 2.
  await expect.poll(async () => (await lane("open")).filter((h) => h.tick >= 3840).length).toBe(0);
  await page.keyboard.up("v");
  await page.getByRole("button", { name: "Recording" }).click();
  await page.keyboard.press("Space");
  // A part that a shorter groove no longer has does not go round.
  const bars = page.getByRole("spinbutton", { name: "Bars", exact: true });
  await bars.fill("1");
  await bars.press("Enter");
  await expect(page.getByLabel("Loop start")).toHaveValue("1");
});

test("what several recordings have in common becomes a target", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: /Library/ }).first().click();
  await page.getByRole("button", { name: "Habits" }).click();
  const list = page.getByRole("list", { name: "Recordings and profiles" });
  await list.getByRole("checkbox").nth(0).click();
  await list.getByRole("listitem").filter({ hasText: "House, classic" }).getByRole("checkbox").click();
  await list.getByRole("listitem").filter({ hasText: "House, modern" }).getByRole("checkbox").click();
  await page.getByLabel("Name of the habit").fill("Rink habit");
  await page.getByRole("button", { name: "Make a habit from 3" }).click();
  await expect(page.getByRole("region", { name: "Habit" })).toContainText("3 recordings");
  await page.getByRole("button", { name: "Use as reference" }).click();
  await page.getByLabel("Compare with").selectOption("2");
  await expect
    .poll(async () => {
      const d = await documentOf(server, name);
      return d.references.find((r: { id: string }) => r.id === d.active_reference)?.profile?.habit?.aim;
    })
    .toBe(2);
});

test("contour and accents drawn by step; one part of the feel alone; both strokes of a step", alone, async ({ page, server }) => {
  await openView(page, server, "groove");
  const feel = async () => (await documentOf(server, name)).groove.feel.voices.snare ?? {};
  await page.locator('[data-lane="snare"]').focus();
  const draw = async (label: string, step: number, part: number) => {
    const plot = page.getByRole("img", { name: label });
    const box = await plot.boundingBox();
    if (!box) throw new Error(`no ${label}`);
    // Waits until it stays where it is.
    await plot.click({ position: { x: (box.width * (step + 0.5)) / 16, y: box.height * part } });
  };
  await draw("Contour of Snare by step", 4, 0.25);
  await draw("Contour of Snare by step", 12, 0.75);
  await expect.poll(async () => [(await feel()).contour_ms[4], (await feel()).contour_ms[12]]).toEqual([10, -10]);
  await draw("Accents of Snare by step", 4, 0.75);
  await expect.poll(async () => (await feel()).accent[4]).toBe(0.5);
  const only = page.getByRole("button", { name: "Solo contour" });
  await only.click();
  await expect(only).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByRole("button", { name: "Hear all" })).toBeVisible();
  await page.getByRole("button", { name: "Hear all" }).click();
  await expect(only).toHaveAttribute("aria-pressed", "false");
  await page.getByRole("img", { name: "Contour of Snare by step" }).dblclick();
  await expect.poll(async () => (await feel()).contour_ms ?? []).toEqual([]);
  // One stroke of mine and of the reference's, together and slow, leaves the worklet.
  await page.getByRole("button", { name: "Between voices" }).click();
  await page.locator('[data-lane="kick"]').focus();
  await page.getByTitle("Play Kick").click(); // opens the sound
  await tap(page);
  await quiet(page);
  await sounding(page, { act: () => page.getByRole("button", { name: "Play this step" }).click() });
});
