import { documentOf, expect, openView, saved, test } from "./base.js";

const name = "Warm-up laps";

test("hits by mouse: place, velocity, move, delete, undo", async ({ page, server }) => {
  await openView(page, server, "groove");
  const lane = page.locator('[data-lane="open"]');
  const box = await lane.locator("canvas").boundingBox();
  if (!box) throw new Error("no lane");
  const step = (box.width - 28) / 32;
  const x = (n: number) => box.x + 14 + n * step;
  await page.mouse.click(x(4), box.y + 20);
  await saved(page);
  const hits = async () => (await documentOf(server, name)).groove.lanes.find((l: { voice: string }) => l.voice === "open").hits;
  await expect.poll(async () => (await hits()).length).toBe(2);
  const placed = (await hits())[0];
  expect(placed.tick).toBe(4 * 240);
  expect(placed.velocity).toBeGreaterThan(85);
  const head = async () => {
    await saved(page);
    const first = lane.locator("[data-hit]").first();
    await expect(first, "the list follows the canvas").toContainText(`velocity ${(await hits())[0].velocity}`);
    const b = await first.boundingBox();
    if (!b) throw new Error("no head");
    return { x: b.x + b.width / 2, y: b.y + b.height / 2 };
  };
  let at = await head();
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x, at.y + 8);
  await page.mouse.move(at.x, at.y + 20, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await hits())[0].velocity).toBeLessThan(placed.velocity - 20);
  at = await head();
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x + 8, at.y);
  await page.mouse.move(at.x + 3 * step, at.y, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await hits())[0].tick).toBe(7 * 240);
  await lane.focus();
  await page.keyboard.press("Delete");
  await expect.poll(async () => (await hits()).length).toBe(1);
  for (let i = 0; i < 4; i++) {
    await page.getByRole("button", { name: "Undo" }).click();
    await saved(page);
  }
  await expect.poll(async () => (await hits()).length).toBe(1);
  await expect.poll(async () => (await hits())[0].tick).toBe(26 * 240);
});

test("hits by keyboard alone", async ({ page, server }) => {
  await openView(page, server, "groove");
  const hits = async () => (await documentOf(server, name)).groove.lanes.find((l: { voice: string }) => l.voice === "open").hits;
  await page.locator('[data-lane="open"]').focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await hits())[0].tick).toBe(480);
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("Shift+ArrowUp");
  await expect.poll(async () => (await hits())[0].velocity).toBe(106);
  await page.keyboard.press("Alt+ArrowRight");
  await page.keyboard.press("Alt+ArrowRight");
  await expect.poll(async () => (await hits())[0].nudge_ms).toBe(2);
  await page.keyboard.press("Control+ArrowRight");
  await expect.poll(async () => (await hits())[0].tick).toBe(720);
  await page.keyboard.press("a");
  await page.keyboard.press("Control+c");
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("Control+v");
  await expect.poll(async () => (await hits()).length).toBe(4);
  await page.keyboard.press("a");
  await page.keyboard.press("Delete");
  await expect.poll(async () => (await hits()).length).toBe(0);
  await page.keyboard.press("Control+z");
  await expect.poll(async () => (await hits()).length).toBe(4);
});

test("feel by number, drag and reset; the sticks follow", async ({ page, server }) => {
  await openView(page, server, "groove");
  const feel = async () => (await documentOf(server, name)).groove.feel;
  const swing = page.getByRole("spinbutton", { name: "Swing", exact: true });
  await swing.fill("62,5");
  await swing.press("Enter");
  await expect.poll(async () => (await feel()).swing_percent).toBe(62.5);
  await swing.press("ArrowUp");
  await expect.poll(async () => (await feel()).swing_percent).toBe(63);
  const label = page.locator('section[aria-label="Feel"] span').getByText("Swing", { exact: true }).first();
  const b = await label.boundingBox();
  if (!b) throw new Error("no label");
  await page.mouse.move(b.x + 5, b.y + 5);
  await page.mouse.down();
  await page.mouse.move(b.x - 35, b.y + 5, { steps: 12 });
  await page.mouse.up();
  await expect.poll(async () => (await feel()).swing_percent).toBeLessThan(60);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => (await feel()).swing_percent, "a drag is one step of undo").toBe(63);
  await label.dblclick();
  await expect.poll(async () => (await feel()).swing_percent).toBe(50);
  await page.getByTitle("Play Hat").click();
  const lean = page.getByRole("spinbutton", { name: "Lean" });
  const headX = async () => (await page.locator('[data-lane="hat"] [data-hit]').first().boundingBox())?.x;
  const before = Number(await headX());
  await lean.fill("30");
  await lean.press("Enter");
  await expect.poll(async () => (await feel()).voices.hat.lean_ms).toBe(30);
  await expect.poll(async () => Number(await headX())).toBeGreaterThan(before + 2);
  await swing.fill("nonsense");
  await swing.press("Enter");
  expect((await feel()).swing_percent, "nonsense changes nothing").toBe(50);
});

test("taking the pattern, the feel and both", async ({ page, server }) => {
  await openView(page, server, "groove", "Speed round");
  const doc = () => documentOf(server, "Speed round");
  await page.getByRole("button", { name: "Take the feel" }).click();
  await saved(page);
  expect((await doc()).groove.lanes.find((l: { voice: string }) => l.voice === "808").hits.length).toBe(3);
  await page.getByRole("button", { name: "Take both" }).click();
  await expect.poll(async () => (await doc()).tempo[0].bpm).toBeCloseTo(124, 0);
  const kick = (await doc()).groove.lanes.find((l: { voice: string }) => l.voice === "kick").hits;
  expect(kick.map((h: { tick: number }) => h.tick % 960)).toEqual(kick.map(() => 0));
  await page.getByRole("button", { name: "Undo" }).click();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => (await doc()).groove.lanes.find((l: { voice: string }) => l.voice === "808").hits.length).toBe(3);
  expect(Number(await page.locator('[data-lane="kick"]').getAttribute("data-behind")), "the reference stands behind").toBeGreaterThan(0);
});

test("two windows cannot overwrite each other", async ({ page, server, context }) => {
  await openView(page, server, "groove");
  const other = await context.newPage();
  await openView(other, server, "groove");
  await page.getByRole("button", { name: "Reset feel", exact: true }).click();
  await saved(page);
  await expect.poll(async () => (await documentOf(server, name)).groove.feel.swing_percent).toBe(50);
  await other.getByTitle("Play Hat").click();
  const lean = other.getByRole("spinbutton", { name: "Lean" });
  await lean.fill("9");
  await lean.press("Enter");
  await expect(other.getByRole("alert")).toContainText("another window");
  await expect(other.getByRole("spinbutton", { name: "Swing", exact: true })).toHaveValue("50.0");
  // And the change that was refused is not lost.
  await other.getByRole("button", { name: "Apply my change to the new version" }).click();
  await expect.poll(async () => (await documentOf(server, name)).groove.feel.voices.hat?.lean_ms).toBe(9);
  expect((await documentOf(server, name)).groove.feel.swing_percent).toBe(50);
});

test("a move keeps the group, and what is copied keeps its nudge", async ({ page, server }) => {
  await openView(page, server, "groove");
  const lane = page.locator('[data-lane="hat"]');
  await lane.focus();
  await page.keyboard.press("a");
  const hats = async () => (await documentOf(server, "Warm-up laps")).groove.lanes.find((l: { voice: string }) => l.voice === "hat").hits;
  const before = await hats();
  await page.keyboard.press("Alt+ArrowRight");
  await saved(page);
  await page.keyboard.press("Control+ArrowRight");
  await saved(page);
  const after = await hats();
  expect(after.length, "none is lost").toBe(before.length);
  // The last one stands at the end already, so all stay; one step earlier all go.
  await page.keyboard.press("Control+c");
  const gap = before.at(-1).tick === 7440 ? 0 : 240;
  expect(after.map((h: { tick: number }) => h.tick)).toEqual(before.map((h: { tick: number }) => h.tick + gap));
  expect(after.every((h: { nudge_ms: number }) => h.nudge_ms === 1)).toBe(true);
  await page.keyboard.press("Delete");
  await saved(page);
  expect((await hats()).length).toBe(0);
  await page.keyboard.press("Control+v");
  await saved(page);
  const pasted = await hats();
  expect(pasted.length).toBeGreaterThan(0);
  expect(pasted.every((h: { nudge_ms: number }) => h.nudge_ms === 1)).toBe(true);
});

test("a drag that is cancelled is over, and what it did is taken back", async ({ page, server }) => {
  await openView(page, server, "groove");
  const swing = page.locator('section[aria-label="Feel"] span').getByText("Swing", { exact: true }).first();
  const box = await swing.boundingBox();
  if (!box) throw new Error("there is no swing");
  const value = page.getByRole("spinbutton", { name: "Swing", exact: true });
  const was = await value.inputValue();
  await page.mouse.move(box.x + 5, box.y + 5);
  await page.mouse.down();
  await page.mouse.move(box.x + 65, box.y + 5, { steps: 4 });
  await expect(value).not.toHaveValue(was);
  await page.keyboard.press("Escape");
  await expect(value).toHaveValue(was);
  await page.mouse.move(box.x + 95, box.y + 5, { steps: 3 });
  await expect(value, "it only hovers now").toHaveValue(was);
  await page.mouse.up();
  await saved(page);
  // The system takes the pointer away.
  await page.mouse.down();
  await page.mouse.move(box.x + 155, box.y + 5, { steps: 4 });
  await expect(value).not.toHaveValue(was);
  await swing.dispatchEvent("pointercancel", { pointerId: 1, bubbles: true });
  await expect(value).toHaveValue(was);
  await page.mouse.move(box.x + 30, box.y + 5, { steps: 3 });
  await page.mouse.up();
  await saved(page);
  expect((await documentOf(server, "Warm-up laps")).groove.feel.swing_percent).toBe(Number(was));
});

test("a long groove is scrolled and zoomed, by wheel, keys and the overview", async ({ page, server, request }) => {
  const id = await server.project(name);
  const api = `${server.url}/api/projects/${id}`;
  const { version } = await (await request.get(api)).json();
  const hits = Array.from({ length: 64 * 16 }, (_, i) => ({ voice: "hat", hit: { id: "", tick: i * 240, velocity: 90, nudge_ms: 0, semitones: 0 } }));
  await request.post(`${api}/edits`, { data: { base: version, edits: [{ op: "groove.bars", bars: 64 }, { op: "hit.put", hits }], coalesce: "" } });
  await openView(page, server, "groove");
  const bars = () => page.locator("#rows > svg").first().locator("text").evaluateAll((all) => all.map((t) => t.textContent).filter((t) => t?.startsWith("bar")));
  await expect.poll(bars).toEqual(["bar 1", "bar 2", "bar 3", "bar 4"]);
  // A cursor that keys move stays in sight.
  await page.locator('[data-lane="hat"]').focus();
  await page.keyboard.press("End");
  await expect.poll(async () => (await bars()).at(-1)).toBe("bar 64");
  await page.keyboard.press("ArrowRight"); // round
  await expect.poll(async () => (await bars())[0]).toBe("bar 1");
  await page.keyboard.press("ArrowLeft");
  await expect.poll(async () => (await bars()).at(-1)).toBe("bar 64");
  await page.keyboard.press("Home");
  await expect.poll(async () => (await bars())[0]).toBe("bar 1");
  await page.keyboard.press(".");
  await expect.poll(bars).toEqual(["bar 5", "bar 6", "bar 7", "bar 8"]);
  await page.keyboard.press("+");
  await expect.poll(async () => (await bars()).length).toBeLessThan(3);
  await page.keyboard.press("0");
  const shown = page.getByTestId("on-show");
  const overview = page.getByRole("scrollbar", { name: /part of the groove/ });
  const whole = await overview.boundingBox();
  const window = async () => await shown.boundingBox();
  if (!whole) throw new Error("no overview");
  expect((await window())?.width).toBeGreaterThan(whole.width - 20);
  // By its edge it is made smaller, by itself it is moved, a click goes there.
  const y = whole.y + 15;
  await page.mouse.move(whole.x + whole.width - 8, y);
  await page.mouse.down();
  await page.mouse.move(whole.x + whole.width / 8, y, { steps: 6 });
  await page.mouse.up();
  const small = await window();
  expect(small?.width).toBeLessThan(whole.width / 7);
  await page.mouse.move((small?.x ?? 0) + 40, y);
  await page.mouse.down();
  await page.mouse.move((small?.x ?? 0) + 240, y, { steps: 6 });
  await page.mouse.up();
  expect((await window())?.x).toBeCloseTo((small?.x ?? 0) + 200, -1);
  await page.mouse.click(whole.x + whole.width - 30, y);
  expect(((await window())?.x ?? 0) + ((await window())?.width ?? 0)).toBeGreaterThan(whole.x + whole.width - 12);
  await overview.press("Home");
  expect((await window())?.x).toBeLessThan(whole.x + 12);
  // The wheel: with Ctrl around the pointer, with Shift along.
  const lane = await page.locator('[data-lane="hat"] canvas').boundingBox();
  if (!lane) throw new Error("no lane");
  const before = (await window())?.width ?? 0;
  await page.mouse.move(lane.x + 200, lane.y + 20);
  await page.keyboard.down("Control");
  await page.mouse.wheel(0, -300);
  await page.keyboard.up("Control");
  await expect.poll(async () => (await window())?.width).toBeLessThan(before * 0.7);
  const from = (await window())?.x ?? 0;
  await page.mouse.wheel(200, 0);
  await expect.poll(async () => (await window())?.x).toBeGreaterThan(from);
  // What plays is kept in sight.
  await overview.press("End");
  await page.keyboard.press(" ");
  await expect.poll(async () => (await window())?.x, "it goes to where it plays").toBeLessThan(whole.x + 40);
  await page.keyboard.press(" ");
});

test("a box selects over rows, and rules select by step and velocity", async ({ page, server }) => {
  await openView(page, server, "groove");
  await page.getByRole("button", { name: "Select", exact: true }).click();
  const kick = await page.locator('[data-lane="kick"] canvas').boundingBox();
  const hat = await page.locator('[data-lane="hat"] canvas').boundingBox();
  if (!kick || !hat) throw new Error("no lanes");
  await page.mouse.move(kick.x + 6, kick.y + 50);
  await page.mouse.down();
  await page.mouse.move(kick.x + kick.width / 2, hat.y + 30, { steps: 8 });
  await page.mouse.up();
  const doc = await documentOf(server, name);
  const chosen = page.getByRole("complementary", { name: "Feel" }).locator("h3").last();
  const end = kick.x + kick.width / 2;
  const inside = await page.evaluate(
    (end) =>
      ["kick", "snare", "hat"].flatMap((v) => Array.from(document.querySelectorAll(`[data-lane="${v}"] [data-hit]`))).filter((h) => {
        const r = h.getBoundingClientRect();
        return r.left + r.width / 2 <= end;
      }).length,
    end,
  );
  await expect(chosen).toHaveText(`${inside} hits`);
  await page.getByRole("button", { name: "Select matching…" }).click();
  const panel = page.getByRole("dialog", { name: "Select by rule" });
  await panel.getByRole("button", { name: "All rows" }).click();
  await panel.getByRole("button", { name: "Off-beats" }).click();
  const all = doc.groove.lanes.flatMap((l: { hits: { tick: number; velocity: number }[] }) => l.hits);
  const offbeats = all.filter((h: { tick: number }) => h.tick % 960 === 480);
  await expect(panel.getByRole("status")).toContainText(`${offbeats.length} selected`);
  const from = panel.getByRole("spinbutton", { name: "velocity from" });
  await from.fill("80");
  await from.press("Enter");
  await expect(panel.getByRole("status")).toContainText(`${offbeats.filter((h: { velocity: number }) => h.velocity >= 80).length} selected`);
});
