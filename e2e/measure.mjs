// Measures the page in Chromium: node measure.mjs. Prints how long the first load takes, how
// long a view takes until it is painted, and how long frames take while hits are dragged,
// scrolled, zoomed and played, among 80, 5,120 and 19,968 hits.
import { framesWhile, full, open, spread, stealTime } from "./open.mjs";

const at = await open(7932);
const { page, json } = at;

const frames = async (act) => {
  const taken = stealTime();
  return spread(await framesWhile(page, act)) + taken();
};

const lane = () => page.locator("[data-lane] canvas").first().boundingBox();

async function dragging() {
  const box = await lane();
  await page.mouse.move(box.x + 14, box.y + 40);
  await page.mouse.down();
  const lengths = await frames(async () => {
    for (let i = 0; i < 120; i++) await page.mouse.move(box.x + 14, box.y + 30 + 12 * Math.sin(i / 6));
  });
  await page.mouse.up();
  return lengths;
}

async function scrolling() {
  const box = await lane();
  await page.mouse.move(box.x + 300, box.y + 40);
  return frames(async () => {
    for (let i = 0; i < 60; i++) await page.mouse.wheel(90, 0);
    await page.keyboard.down("Control");
    for (let i = 0; i < 60; i++) await page.mouse.wheel(0, i < 30 ? 60 : -60);
    await page.keyboard.up("Control");
  });
}

async function playing() {
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await page.waitForTimeout(2000);
  const lengths = await frames(() => page.waitForTimeout(4000));
  await page.getByRole("button", { name: "Stop", exact: true }).click();
  return lengths;
}

try {
  const demo = await at.project("Warm-up laps");
  const began = performance.now();
  await page.goto(`${at.url}/`);
  await page.getByRole("heading").first().waitFor();
  console.log(`first load, to the list of projects: ${(performance.now() - began).toFixed(0)} ms`);
  await page.goto(`${at.url}/p/${demo}/export`);
  await page.getByRole("heading", { level: 1 }).first().waitFor();
  await page.waitForTimeout(2000);
  for (const [key, name] of ["Reference", "Sounds", "Groove", "Mix", "Arrange", "Compare"].map((name, i) => [String(i + 1), name])) {
    const painted = [];
    for (let i = 0; i < 2; i++) {
      painted.push(
        await page.evaluate(async (key) => {
          const before = document.querySelector("main");
          const from = performance.now();
          document.body.dispatchEvent(new KeyboardEvent("keydown", { key, code: `Digit${key}`, bubbles: true }));
          while (!document.querySelector("main") || document.querySelector("main") === before) {
            await new Promise(requestAnimationFrame);
            if (performance.now() - from > 20_000) throw new Error(`no view after ${key}`);
          }
          await new Promise(requestAnimationFrame);
          return performance.now() - from;
        }, key),
      );
      await page.waitForTimeout(1500);
      await page.keyboard.press("7");
      await page.waitForTimeout(1000);
    }
    console.log(`${name} painted after ${painted.map((t) => t.toFixed(0)).join(" ms at first, ")} ms again`);
  }
  for (const [bars, voices] of [[1, 5], [64, 5], [39, 32]]) {
    const project = await full(json, bars, voices);
    const open = () => page.goto(`${at.url}/p/${project}/groove`).then(() => page.locator("[data-lane] canvas").first().waitFor());
    const where = `among ${bars * 16 * voices} hits in ${voices} rows`;
    await open();
    console.log(`frames, dragging a velocity ${where}: ${await dragging()}`);
    if (bars === 1) continue;
    await open();
    console.log(`frames, scrolling and zooming ${where}: ${await scrolling()}`);
    await open();
    console.log(`frames, playing ${where}: ${await playing()}`);
    await page.keyboard.press("0");
    await page.waitForTimeout(500);
    console.log(`frames, dragging with all of them on show ${where}: ${await dragging()}`);
    console.log(`frames, playing with all of them on show ${where}: ${await playing()}`);
  }
} finally {
  await at.close();
}
