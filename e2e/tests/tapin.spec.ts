import { alone, documentOf, expect, openView, test } from "./base.js";

/** In the page: how far the output is behind the page's clock, ms: it grows where the output stumbles. */
const outputBehind = () => performance.now() - (window as any).jubrakMonitor.context.currentTime * 1000;

test("a take of the simulated controller becomes a reference that is measured", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Tap in" }).click();
  const dialog = page.getByRole("dialog", { name: "Tap in" });
  await dialog.getByLabel("Played with").selectOption({ label: "simulated: Lazy laps, late hats" });
  await dialog.getByRole("button", { name: "2", exact: true }).click();
  // A take to a click that stumbles, on a machine that is held up, is played again.
  for (let lost = 1e9, takes = 0; lost > 25 && takes < 8; takes++) {
    await dialog.getByRole("button", { name: /^Record/ }).click();
    await expect(dialog.getByRole("status")).toContainText("count-in");
    const before = await page.evaluate(outputBehind);
    await expect(dialog.getByRole("button", { name: "Use as reference" })).toBeVisible();
    lost = (await page.evaluate(outputBehind)) - before;
  }
  await dialog.getByRole("button", { name: "Use as reference" }).click();
  await expect(page.locator("[data-fact=reference]")).toContainText("90.0 BPM, 4/4");
  const doc = await documentOf(server, "Warm-up laps");
  expect(doc.references.at(-1)).toMatchObject({ kind: "midi", name: "Lazy laps, late hats" });
  const id = await server.project("Warm-up laps");
  const a = (await (await fetch(`${server.url}/api/projects/${id}/references/${doc.active_reference}`)).json()) as any;
  const of = (f: string) => a.hits.filter((h: any) => h.family === f);
  // Two bars of nine and four; the edges of the take may hold one more or less.
  expect(Math.abs(of("hat_closed").length - 18)).toBeLessThan(2);
  expect(Math.abs(of("kick").length - 8)).toBeLessThan(2);
  // The recorded drummer's hats lag 11 ms behind the kick; swing 58 %.
  expect(a.feel.voices.hat_closed.lean_ms - a.feel.voices.kick.lean_ms).toBeGreaterThan(5);
  expect(a.feel.swing_percent).toBeGreaterThan(54);
});

test("keys strike pads, with accents; what was tapped is on the grid", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Tap in" }).click();
  const dialog = page.getByRole("dialog", { name: "Tap in" });
  await dialog.getByRole("button", { name: "1 bar" }).click();
  await dialog.getByRole("button", { name: "Record" }).click();
  await expect(dialog.getByRole("status")).toContainText("bar 1 of 1");
  await page.keyboard.press("a");
  await expect(dialog.getByRole("status")).toContainText("1 hit");
  await page.keyboard.press("Shift+S");
  await expect(dialog.getByRole("status")).toContainText("2 hits");
  await dialog.getByRole("button", { name: "Hat J" }).click();
  await expect(dialog.getByRole("button", { name: "Use as reference" })).toBeVisible();
  await expect(dialog.getByRole("status")).toContainText("3 hits");
  await dialog.getByRole("button", { name: "Use as reference" }).click();
  await expect.poll(async () => (await documentOf(server, "Warm-up laps")).references.length).toBe(2);
});
