// Reads the samples that leave the worklet, by a second worklet behind it.
import { expect, type Page } from "@playwright/test";
import { saved } from "./base.js";

const processor = `
registerProcessor("tap", class extends AudioWorkletProcessor {
  constructor() {
    super();
    this.armed = false; this.peak = 0; this.frames = 0; this.sum = 0;
    this.port.onmessage = (e) => {
      if (e.data === "arm") this.armed = true;
      if (e.data === "read" || e.data === "look") {
        this.port.postMessage({ peak: this.peak, rms: Math.sqrt(this.sum / Math.max(this.frames, 1)), frames: this.frames });
        if (e.data === "read") { this.peak = 0; this.frames = 0; this.sum = 0; }
      }
    };
  }
  process(inputs) {
    for (const ch of inputs[0]) for (const v of ch) {
      const a = Math.abs(v);
      if (a > this.peak) this.peak = a;
      this.sum += v * v / inputs[0].length;
    }
    this.frames += 128;
    if (this.armed && this.peak > 1e-4) { this.armed = false; this.port.postMessage({ heard: true }); }
    return true;
  }
});`;

/** Puts the tap behind the monitor; sound must have been started. */
export async function tap(page: Page) {
  await page.evaluate(async (code) => {
    const w = window as any;
    const m = w.jubrakMonitor;
    for (let i = 0; i < 100 && !m.node; i++) await new Promise((done) => setTimeout(done, 20));
    await m.context.audioWorklet.addModule(URL.createObjectURL(new Blob([code], { type: "text/javascript" })));
    const node = new AudioWorkletNode(m.context, "tap", { numberOfOutputs: 0 });
    m.node.connect(node);
    w.tap = node;
    w.tapRead = (how: string) =>
      new Promise((done) => {
        node.port.onmessage = (e: MessageEvent) => done(e.data);
        node.port.postMessage(how);
      });
  }, processor);
}

export interface Reading {
  peak: number;
  rms: number;
  frames: number;
}

/** What left the worklet since the last reading. */
export const reading = (page: Page): Promise<Reading> =>
  page.evaluate(() => (window as any).tapRead("read"));

/**
 * The next so many ms of sound that leave the worklet, however long a busy machine takes for
 * them; with an act, from before it until so many ms after it.
 */
export async function listen(page: Page, ms: number, act?: () => Promise<void>): Promise<Reading> {
  await reading(page);
  await act?.();
  await page.evaluate(
    async (frames) => {
      const w = window as any;
      const from = (await w.tapRead("look")).frames;
      while ((await w.tapRead("look")).frames < from + frames) await new Promise((done) => setTimeout(done, 20));
    },
    ms * 48,
  );
  return reading(page);
}

/** Waits until what rang has died away. */
export const quiet = (page: Page) =>
  expect.poll(async () => (await listen(page, 300)).peak, { intervals: [0] }).toBeLessThan(1e-3);

/** Waits until something sounds; of what is struck once, the act that strikes it is given. */
export async function sounding(page: Page, { above = 0.05, act }: { above?: number; act?: () => Promise<void> } = {}) {
  await reading(page);
  await act?.();
  await expect
    .poll(async () => (await page.evaluate(() => (window as any).tapRead("look"))).peak, { intervals: [100] })
    .toBeGreaterThan(above);
}

/** Waits until the project's newest version has come to the worklet. */
export async function carried(page: Page) {
  await saved(page);
  await page.evaluate(async () => {
    const id = location.pathname.split("/")[2];
    const { version } = await (await fetch(`/api/projects/${id}`)).json();
    const m = (window as any).jubrakMonitor;
    while (m.report.version < version) await new Promise((done) => setTimeout(done, 20));
  });
}

/**
 * The peak of what an act strikes once the project's newest version plays; it is struck again
 * where a busy machine brought it too late to be heard whole.
 */
export async function struck(page: Page, act: () => Promise<void>): Promise<number> {
  const late = () => page.evaluate(() => (window as any).jubrakMonitor.report.late as number);
  await carried(page);
  for (;;) {
    await quiet(page);
    const before = await late();
    const { peak } = await listen(page, 1200, act);
    if ((await late()) === before) return peak;
  }
}
