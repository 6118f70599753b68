// What differs between browsers, in Firefox.
import type { Page } from "puppeteer-core";
import { Firefox, hasFirefox } from "../firefox.js";
import type { Server } from "../server.js";
import { alone, expect, playsWhileHeld, test as plain } from "./base.js";

const test = plain.extend<{ firefox: Firefox }>({
  firefox: async ({}, use) => {
    const firefox = new Firefox();
    await use(firefox);
    await firefox.remove();
  },
});

test.skip(!hasFirefox, "Firefox is not installed");

const press = async (page: Page, name: string) => (await page.waitForSelector(`button[aria-label="${name}"]`))?.click();

/** The loudest sample that leaves the worklet within a while. */
const peak = (page: Page, ms = 300) =>
  page.evaluate(async (ms) => {
    const w = window as any;
    const m = w.jubrakMonitor;
    if (!m?.node) return 0;
    w.analyser ??= m.node.connect(new AnalyserNode(m.context, { fftSize: 2048 }));
    const x = new Float32Array(2048);
    let most = 0;
    for (const until = performance.now() + ms; performance.now() < until; await new Promise((done) => setTimeout(done, 20))) {
      w.analyser.getFloatTimeDomainData(x);
      for (const v of x) most = Math.max(most, Math.abs(v));
    }
    return most;
  }, ms);

const report = (page: Page) => page.evaluate(() => ({ ...(window as any).jubrakMonitor.report }));

async function groove(firefox: Firefox, server: Server) {
  const id = await server.project("Warm-up laps");
  const page = await firefox.page(`${server.url}/p/${id}/groove`);
  await page.waitForSelector('button[aria-label="Play"]');
  return page;
}

test("Firefox: plays, and an edit is heard", alone, async ({ firefox, server }) => {
  await firefox.sound(true);
  const page = await groove(firefox, server);
  await press(page, "Play");
  await expect.poll(() => peak(page)).toBeGreaterThan(0.05);
  const { version } = await report(page);
  await (await page.waitForSelector('button[title="Other random numbers, the same amounts"]'))?.click();
  await expect.poll(async () => (await report(page)).version).toBeGreaterThan(version);
  await press(page, "Stop");
  await expect.poll(() => peak(page)).toBeLessThan(1e-3);
});

test("Firefox: a page that is held for longer than the lead does not starve the sound", alone, async ({ firefox, server }) => {
  await firefox.sound(true);
  const page = await groove(firefox, server);
  await press(page, "Play");
  await page.waitForFunction(() => (window as any).jubrakMonitor.streams, { timeout: 60_000 });
  await expect.poll(() => peak(page)).toBeGreaterThan(0.05);
  expect(await page.evaluate(playsWhileHeld)).toBeGreaterThan(0.75);
});

test("Firefox: a click on a number box goes into it", alone, async ({ firefox, server }) => {
  const page = await groove(firefox, server);
  const box = await page.waitForSelector('footer input[type="number"]');
  const at = await box?.boundingBox();
  if (!box || !at) throw new Error("no number box");
  const value = () => box.evaluate((e) => (e as HTMLInputElement).value);
  const before = await value();
  await page.mouse.click(at.x + at.width - 5, at.y + 5);
  expect(await box.evaluate((e) => document.activeElement === e)).toBe(true);
  expect(await value(), "it did not count up").toBe(before);
});

test("Firefox: without a sound output Play says so, and plays when there is one", alone, async ({ firefox, server }) => {
  await firefox.sound(false);
  const page = await groove(firefox, server);
  await press(page, "Play");
  await page.waitForFunction(() => document.body.textContent?.includes("the browser has no sound output"), { timeout: 60_000 });
  await page.waitForSelector('button[aria-label="Play"]');
  firefox.connect();
  await page.reload(); // it looks for outputs as a page is loaded
  await press(page, "Play");
  await expect.poll(() => peak(page)).toBeGreaterThan(0.05);
});
