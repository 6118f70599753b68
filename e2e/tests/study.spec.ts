import { expect, openView, test } from "./base.js";
import { listen, tap } from "./tap.js";

// The tap behind the worklet is no script of the page.
test.use({ bypassCSP: true });

test("listening closely: half speed, one family, clicks; sound leaves the worklet", async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Listen closely" }).click();
  await tap(page);
  await expect.poll(async () => (await listen(page, 300)).peak).toBeGreaterThan(0.05);
  const full = await listen(page, 1500);
  await page.getByLabel("Part of the spectrum").selectOption("highs");
  await page.waitForTimeout(600);
  const highs = await listen(page, 1500);
  expect(highs.rms).toBeLessThan(0.6 * full.rms);
  expect(highs.peak).toBeGreaterThan(0.003);
  await page.getByLabel("Part of the spectrum").selectOption("all");
  await page.getByLabel("Speed").selectOption("0.5");
  await page.waitForTimeout(900);
  expect((await listen(page, 1500)).peak).toBeGreaterThan(0.05);
  await page.getByLabel("Only the hits of one family").selectOption("snare");
  await page.getByLabel("Clicks on top").selectOption("beats");
  await page.waitForTimeout(900);
  expect((await listen(page, 1500)).peak).toBeGreaterThan(0.05);
  await page.keyboard.press("l");
  await page.waitForTimeout(500);
  expect((await listen(page, 500)).peak).toBeLessThan(0.001);
});
