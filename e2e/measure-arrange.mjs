// Measures a piece of ten minutes and 16 rows in Chromium: node measure-arrange.mjs. Prints
// how long frames take while it is scrolled, zoomed and painted, how soon an edit is
// answered, how soon playing from bars is heard, what a backing of two hours needs at most
// of memory.
import { spawn } from "node:child_process";
import { createWriteStream, readFileSync } from "node:fs";
import { join } from "node:path";
import { framesWhile, open, spread } from "./open.mjs";

const at = await open(7933);
const { page, json } = at;

/** Ten minutes at 120 BPM: 300 bars in 20 sections, 16 rows of sixteenths and eighths, drawn numbers. */
async function tenMinutes() {
  const p = await json("/api/projects", { name: "Ten minutes" });
  const families = ["kick", "snare", "hat_closed", "perc"];
  const edits = [{ op: "number.set", at: "tempo/bpm", value: 120 }];
  for (let i = p.document.kit.voices.length; i < 16; i++) edits.push({ op: "voice.add", family: families[i % 4], name: `Row ${i}` });
  const grown = await json(`/api/projects/${p.id}/edits`, { base: 1, edits, coalesce: "" });
  const state = await json(`/api/projects/${p.id}`);
  const hits = state.document.kit.voices.flatMap(({ id }, v) =>
    Array.from({ length: 2 * 16 }, (_, i) => i).filter((i) => (i + v) % (1 + (v % 3)) === 0).map((i) => ({ voice: id, hit: { id: "", tick: i * 240, velocity: 60 + (i % 5) * 8, nudge_ms: 0, semitones: 0 } })),
  );
  const more = [{ op: "hit.put", hits }, { op: "section.set", section: "s1", bars: 15 }];
  for (let i = 1; i < 20; i++) more.push({ op: "section.add", name: `Part ${i + 1}`, bars: 15 });
  await json(`/api/projects/${p.id}/edits`, { base: grown.version ?? state.version, edits: more, coalesce: "" });
  const now = await json(`/api/projects/${p.id}`);
  const drawn = now.document.arrangement.sections.map((s) => ({ op: "piece.automate", section: s.id, at: "kick/level_db", points: [{ bar: 0, value: -20 }, { bar: 15, value: -6 }] }));
  await json(`/api/projects/${p.id}/edits`, { base: now.version, edits: drawn, coalesce: "" });
  return p.id;
}

const id = await tenMinutes();
await page.goto(`${at.url}/p/${id}/arrange`);
await page.getByTestId("ruler").waitFor();
await page.waitForTimeout(20000); // what is measured beside has come
const box = await page.getByTestId("paint-kick").boundingBox();
await page.mouse.move(box.x + 300, box.y + 15);
console.log("frames, zooming and scrolling:", spread(await framesWhile(page, async () => {
  await page.keyboard.down("Control");
  for (let i = 0; i < 80; i++) await page.mouse.wheel(0, i < 40 ? -60 : 60);
  await page.keyboard.up("Control");
  for (let i = 0; i < 60; i++) await page.mouse.wheel(60, 0);
})));
await page.keyboard.press("0");
console.log("frames, painting:", spread(await framesWhile(page, async () => {
  await page.mouse.down();
  for (let i = 0; i < 100; i++) await page.mouse.move(box.x + 300 + 2 * i, box.y + 15);
  await page.mouse.up();
})));
const answers = [];
for (let i = 0; i < 60; i++) {
  const s = await json(`/api/projects/${id}`);
  const began = performance.now();
  await json(`/api/projects/${id}/edits`, { base: s.version, edits: [{ op: "piece.paint", voices: ["snare"], from: i * 3840, to: (i + 1) * 3840, plays: i % 2 === 0 }], coalesce: "" });
  answers.push(performance.now() - began);
}
console.log("an edit is answered:", spread(answers));
const begun = [];
for (const bar of [0, 40, 100, 170, 250, 299]) {
  begun.push(
    await page.evaluate(async (tick) => {
      const m = window.jubrakMonitor;
      const began = performance.now();
      await m.play(tick);
      while (!(m.report.playing && m.report.piece && m.report.position >= tick - 1)) await new Promise((done) => setTimeout(done, 1));
      return performance.now() - began;
    }, bar * 3840),
  );
  await page.waitForTimeout(700);
  await page.evaluate(() => window.jubrakMonitor.stop());
  await page.waitForTimeout(400);
}
console.log("from Play to sound at a bar, the first opens the sound:", begun.map((t) => t.toFixed(0)).join(", "), "ms");
await page.close();

// Two hours of 16-bit stereo at 44.1 kHz.
const path = join(at.data, "two hours.wav");
const seconds = 7200;
const head = Buffer.alloc(44);
head.write("RIFF", 0);
head.writeUInt32LE(36 + seconds * 44100 * 4, 4);
head.write("WAVEfmt ", 8);
head.writeUInt32LE(16, 16);
head.writeUInt16LE(1, 20);
head.writeUInt16LE(2, 22);
head.writeUInt32LE(44100, 24);
head.writeUInt32LE(44100 * 4, 28);
head.writeUInt16LE(4, 32);
head.writeUInt16LE(16, 34);
head.write("data", 36);
head.writeUInt32LE(seconds * 44100 * 4, 40);
const file = createWriteStream(path);
file.write(head);
const second = Buffer.alloc(44100 * 4);
for (let i = 0; i < 44100; i++) {
  const v = Math.round(9000 * Math.sin((2 * Math.PI * 330 * i) / 44100));
  second.writeInt16LE(v, 4 * i);
  second.writeInt16LE(v, 4 * i + 2);
}
for (let i = 0; i < seconds; i++) if (!file.write(second)) await new Promise((done) => file.once("drain", done));
await new Promise((done) => file.end(done));
const status = () => {
  const text = readFileSync(`/proc/${at.server.pid}/status`, "utf8");
  const of = (name) => Number(new RegExp(`${name}:\\s+(\\d+)`).exec(text)?.[1] ?? 0) / 1024;
  return { peak: of("VmHWM"), own: of("RssAnon") };
};
const p = await json("/api/projects", { name: "Two hours" });
const before = status();
const form = spawn("curl", ["-sf", "-o", "/dev/null", "-F", `file=@${path}`, `${at.url}/api/projects/${p.id}/backings`]);
await new Promise((done) => form.once("exit", done));
let most = 0;
for (let i = 0; i < 900; i++) {
  most = Math.max(most, status().own);
  const { backings } = await json(`/api/projects/${p.id}/backings`);
  const { jobs } = await json("/api/jobs");
  if (backings[0]?.ready && jobs.every((j) => ["done", "failed", "cancelled"].includes(j.status))) break;
  await new Promise((done) => setTimeout(done, 200));
}
console.log(`a backing of two hours: ${most.toFixed(0)} MB of the server's own memory at most (${before.own.toFixed(0)} MB before)`);
await at.close();
