import { alone, expect, openView, test } from "./base.js";
import { listen, quiet, sounding, tap } from "./tap.js";

// The tap behind the worklet is no script of the page.
test.use({ bypassCSP: true });

test("listening closely: half speed, one family, clicks; sound leaves the worklet", alone, async ({ page, server }) => {
  await openView(page, server, "reference");
  await page.getByRole("button", { name: "Listen closely", exact: true }).click();
  await tap(page);
  await sounding(page);
  const full = await listen(page, 1500);
  await page.getByLabel("Part of the spectrum").selectOption("highs");
  // It is prepared and comes when it is there.
  await expect.poll(async () => (await listen(page, 1500)).rms).toBeLessThan(0.6 * full.rms);
  expect((await listen(page, 1500)).peak).toBeGreaterThan(0.003);
  await page.getByLabel("Part of the spectrum").selectOption("all");
  await page.getByLabel("Speed").selectOption("0.5");
  await sounding(page);
  await page.getByLabel("Only the hits of one family").selectOption("snare");
  await page.getByLabel("Clicks on top").selectOption("beats");
  await sounding(page);
  await page.keyboard.press("l");
  await quiet(page);
});

test("compare: both are heard one after the other; the sides of a blind test leave the worklet", alone, async ({ page, server }) => {
  await openView(page, server, "compare");
  await page.getByRole("tab", { name: /^Tone/ }).click();
  await page.locator('[data-row="fundamental.kick"]').click();
  await page.getByRole("button", { name: "Hear both" }).click();
  await tap(page);
  await sounding(page);
  await page.getByRole("button", { name: "Blind test…" }).click();
  const panel = page.getByRole("region", { name: "Blind test" });
  await panel.getByRole("button", { name: "Begin" }).click();
  const level = async (side: string) => {
    await sounding(page, { act: () => panel.getByRole("button", { name: `Hear ${side}` }).click() });
    await listen(page, 400); // the fade from the side before
    return 20 * Math.log10((await listen(page, 5000)).rms);
  };
  // Matched by loudness (ITU-R BS.1770-4); their RMS differs by what the ear weighs.
  const [a, b, x] = [await level("A"), await level("B"), await level("X")];
  expect(Math.abs(a - b)).toBeLessThan(4);
  expect(Math.min(Math.abs(x - a), Math.abs(x - b))).toBeLessThan(1);
});
