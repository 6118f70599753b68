// Measures the streaming path in Chromium: node measure.mjs [seconds]. Prints
// the time from a click on a hit to sound at the worklet, the time from an
// edit while playing to the block that carries it leaving the worklet, how long
// frames take while the velocity of a hit is dragged among 80 and among 5,120
// hits, and how often a long play ran dry.
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";

const seconds = Number(process.argv[2] ?? 120);
const port = 7932;
const data = mkdtempSync(join(tmpdir(), "jubrak-measure-"));
const server = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${port}`, "--data", data], { stdio: ["ignore", "pipe", "ignore"] });
await new Promise((done) => server.stdout.once("data", done));
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--autoplay-policy=no-user-gesture-required"],
});
const spread = (t) => {
  t.sort((a, b) => a - b);
  return `median ${t[t.length >> 1].toFixed(0)} ms, 90 % under ${t[Math.floor(t.length * 0.9)].toFixed(0)} ms, worst ${t.at(-1).toFixed(0)} ms (${t.length} times)`;
};
/** A project of so many bars, with a hit on each sixteenth of five voices. */
async function full(request, bars) {
  const api = `http://127.0.0.1:${port}/api/projects`;
  const project = await (await request.post(api, { data: { name: `${bars} bars` } })).json();
  const put = project.document.kit.voices.slice(0, 5).flatMap(({ id }) =>
    Array.from({ length: bars * 16 }, (_, i) => ({ voice: id, hit: { id: "", tick: i * 240, velocity: 60 + (i % 5) * 8, nudge_ms: 0, semitones: 0 } })),
  );
  const scatter = project.document.kit.voices.map(({ id }) => ({ op: "number.set", at: `groove/feel/${id}/scatter_ms`, value: 3 }));
  const edits = [{ op: "groove.bars", bars }, { op: "hit.put", hits: put }, ...scatter];
  const reply = await request.post(`${api}/${project.id}/edits`, { data: { base: 1, edits, coalesce: "" } });
  if (!reply.ok()) throw new Error(await reply.text());
  return project.id;
}

/** How long frames take while the first hit of a lane is dragged up and down. */
async function dragging(page, project) {
  await page.goto(`http://127.0.0.1:${port}/p/${project}/groove`);
  const box = await page.locator("[data-lane] canvas").first().boundingBox();
  await page.mouse.move(box.x + 14, box.y + 40);
  await page.mouse.down();
  const frames = await framesWhile(page, async () => {
    for (let i = 0; i < 120; i++) await page.mouse.move(box.x + 14, box.y + 30 + 12 * Math.sin(i / 6));
  });
  await page.mouse.up();
  return frames;
}

/** How long frames take while a groove is scrolled and zoomed by the wheel. */
async function scrolling(page, project) {
  await page.goto(`http://127.0.0.1:${port}/p/${project}/groove`);
  const box = await page.locator("[data-lane] canvas").first().boundingBox();
  await page.mouse.move(box.x + 300, box.y + 40);
  return framesWhile(page, async () => {
    for (let i = 0; i < 60; i++) await page.mouse.wheel(90, 0);
    await page.keyboard.down("Control");
    for (let i = 0; i < 60; i++) await page.mouse.wheel(0, i < 30 ? 60 : -60);
    await page.keyboard.up("Control");
  });
}

/** The lengths of the frames while something is done. */
async function framesWhile(page, act) {
  await page.evaluate(() => {
    globalThis.frames = [];
    let last = performance.now();
    const next = (t) => {
      globalThis.frames.push(t - last);
      last = t;
      globalThis.watching = requestAnimationFrame(next);
    };
    requestAnimationFrame(next);
  });
  await act();
  return page.evaluate(() => {
    cancelAnimationFrame(globalThis.watching);
    return globalThis.frames.slice(2);
  });
}

const summary = (frames) => {
  frames.sort((a, b) => a - b);
  return `frames of ${frames[frames.length >> 1].toFixed(0)} ms, 95 % under ${frames[Math.floor(frames.length * 0.95)].toFixed(0)} ms (${frames.length} frames)`;
};

/** Plays a project and prints how long edits take to be heard, with the parts of that time. */
async function heard(page, project, where) {
  await page.goto(`http://127.0.0.1:${port}/p/${project}/groove`);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await page.waitForTimeout(1500);
  const edits = [];
  for (let i = 0; i < 40; i++) {
    await page.waitForTimeout(150);
    edits.push(
      await page.evaluate(async () => {
        const m = globalThis.jubrakMonitor;
        const before = m.report.version;
        performance.clearResourceTimings();
        const from = performance.now();
        document.querySelector('button[title="Other random numbers, the same amounts"]').click();
        while (m.report.version === before) await new Promise((done) => setTimeout(done, 1));
        const all = performance.now() - from;
        const ahead = m.report.filled / 48;
        const { reach, late } = m.report;
        let sent;
        while (!sent) {
          sent = performance.getEntriesByType("resource").find((r) => r.name.endsWith("/edits"));
          await new Promise((done) => setTimeout(done, 1));
        }
        return { all, ahead, reach, late, begun: sent.requestStart - from, answer: sent.responseEnd - sent.requestStart };
      }),
    );
  }
  const part = (of) => edits.map((e) => e[of]).sort((a, b) => a - b)[edits.length >> 1].toFixed(0);
  console.log(`edit while playing to changed samples, ${where}: ${spread(edits.map((e) => e.all))}`);
  console.log(`  of that, medians: ${part("begun")} ms until it is sent, ${part("answer")} ms until it is answered, ${part("ahead")} ms of sound ahead, changed from ${part("reach")} ms on; ${edits.at(-1).late - edits[0].late} frames came too late`);
}

try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  for (const bars of [1, 64]) {
    const project = await full(page.request, bars);
    console.log(`dragging a velocity among ${bars * 80} hits, ${Math.min(bars, 4)} bars on show: ${summary(await dragging(page, project))}`);
    if (bars > 4) console.log(`scrolling and zooming among ${bars * 80} hits: ${summary(await scrolling(page, project))}`);
  }
  await heard(page, await full(page.request, 64), "among 5120 hits");
  const { projects } = await (await page.request.get(`http://127.0.0.1:${port}/api/projects`)).json();
  await heard(page, projects.find((p) => p.name === "Warm-up laps").id, "in the demo");
  const before = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
  const edits = await page.evaluate(async (seconds) => {
    let n = 0;
    for (const until = performance.now() + seconds * 1000; performance.now() < until; n++) {
      document.querySelector('button[title="Other random numbers, the same amounts"]').click();
      await new Promise((done) => setTimeout(done, 100));
    }
    return n;
  }, seconds);
  const after = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
  console.log(`${((after.played - before.played) / 48000).toFixed(1)} s played with ${edits} edits, ran dry ${after.dry - before.dry} times`);
  const from = after;
  for (let s = 0; s < seconds; s += 10) {
    await page.waitForTimeout(10_000);
    await page.keyboard.press(String(1 + ((s / 10) % 5))); // walk through the views meanwhile
  }
  const to = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
  console.log(`${((to.played - from.played) / 48000).toFixed(1)} s played while walking through the views, ran dry ${to.dry - from.dry} times`);
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}
