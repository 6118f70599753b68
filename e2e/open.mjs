// What the programs that measure and soak share: a server with the demo, a page of it, and projects that
// are made through the API.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";

/** Starts a server with the demo on a port, and a browser. */
export async function open(port) {
  const data = mkdtempSync(join(tmpdir(), "jubrak-measure-"));
  const server = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${port}`, "--data", data], { stdio: ["ignore", "pipe", "pipe"] });
  server.stderr.resume();
  await new Promise((done) => server.stdout.once("data", done));
  const browser = await chromium.launch({
    executablePath: "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--autoplay-policy=no-user-gesture-required"],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const url = `http://127.0.0.1:${port}`;
  const json = async (path, body) => {
    const reply = await fetch(url + path, body && { method: "POST", body: JSON.stringify(body) });
    if (!reply.ok) throw new Error(await reply.text());
    return reply.json();
  };
  return {
    page,
    url,
    json,
    server,
    data,
    /** The demo's project of a name. */
    project: async (name) => (await json("/api/projects")).projects.find((p) => p.name === name).id,
    close: async () => {
      await browser.close();
      server.kill();
      await new Promise((done) => server.once("exit", done));
      rmSync(data, { recursive: true, force: true });
    },
  };
}

const hit = (i, ticks) => ({ id: "", tick: i * ticks, velocity: 60 + (i % 5) * 8, nudge_ms: 0, semitones: 0 });

/** A project of so many bars, with a hit on each, or each third, sixteenth of so many of its voices. */
export async function full(json, bars, voices = 5, every = 1) {
  const project = await json("/api/projects", { name: `${bars} bars` });
  const families = ["kick", "snare", "clap", "rim", "hat_closed", "hat_open", "shaker", "tom"];
  const more = Array.from({ length: Math.max(voices - 5, 0) }, (_, i) => ({ op: "voice.add", family: families[i % families.length], name: `V ${i}` }));
  if (more.length > 0) await json(`/api/projects/${project.id}/edits`, { base: 1, edits: more, coalesce: "" });
  const { document, version } = await json(`/api/projects/${project.id}`);
  const ids = document.kit.voices.slice(0, voices).map((v) => v.id);
  const places = Array.from({ length: bars * 16 }, (_, i) => i);
  const put = ids.flatMap((voice, v) => places.filter((i) => (i + v) % every === 0).map((i) => ({ voice, hit: hit(i, 240) })));
  const scatter = ids.map((id) => ({ op: "number.set", at: `groove/feel/${id}/scatter_ms`, value: 3 }));
  await json(`/api/projects/${project.id}/edits`, { base: version, edits: [{ op: "groove.bars", bars }, { op: "hit.put", hits: put }, ...scatter], coalesce: "" });
  return project.id;
}

/** A project of 16 rows of 4 effects over 3 buses, with a reverb on two of them. */
export async function mixed(json) {
  const id = await full(json, 1, 16, 3);
  const { document, version } = await json(`/api/projects/${id}`);
  const rows = document.kit.voices.map((v) => v.id);
  const buses = document.mix.buses.map((b) => `bus:${b.id}`);
  const edits = rows.flatMap((row) => ["equalizer", "compressor", "drive", "gate"].map((kind) => ({ op: "effect.add", row, kind, to: 9 })));
  for (const row of buses) edits.push({ op: "effect.add", row, kind: "reverb", to: 9 });
  await json(`/api/projects/${id}/edits`, { base: version, edits, coalesce: "" });
  return id;
}

/**
 * Starts to watch the steal time: what other machines on the same computer take of this one.
 * The returned function says how much that was since, % of all cores; empty where the system
 * does not say.
 */
export function stealTime() {
  const read = () => {
    try {
      const [user, nice, system, idle, wait, irq, soft, steal] = readFileSync("/proc/stat", "utf8").split("\n")[0].split(/ +/).slice(1).map(Number);
      return { steal, all: user + nice + system + idle + wait + irq + soft + steal };
    } catch {
      return null;
    }
  };
  const before = read();
  return () => {
    const now = read();
    return before && now.all > before.all ? `; steal ${((100 * (now.steal - before.steal)) / (now.all - before.all)).toFixed(0)} %` : "";
  };
}

/** The lengths of a page's frames while something is done, ms. */
export async function framesWhile(page, act) {
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

/** Median, 95th percentile and worst of times, ms. */
export function spread(times) {
  const t = [...times].sort((a, b) => a - b);
  const at = (q) => t[Math.min(Math.floor(t.length * q), t.length - 1)].toFixed(0);
  return `median ${at(0.5)} ms, 95 % under ${at(0.95)} ms, worst ${at(1)} ms (${t.length} times)`;
}
