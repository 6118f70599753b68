// @vitest-environment jsdom
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useProject } from "../state/project";
import { monitor, useMonitor } from "./monitor";

/** A browser's sound, whose output is there or not. */
class Context extends EventTarget {
  static output = true;
  static calls: string[] = [];
  static last: Context | null = null;
  state = "suspended";
  destination = {};
  onstatechange: (() => void) | null = null;
  audioWorklet = {
    addModule: async () => void Context.calls.push("module"),
  };
  constructor() {
    super();
    Context.last = this;
  }
  resume(): Promise<void> {
    Context.calls.push("resume");
    if (!Context.output) return new Promise(() => {});
    this.set("running");
    return Promise.resolve();
  }
  close = async () => this.set("closed");
  set(state: string) {
    if (this.state === state) return;
    this.state = state;
    this.onstatechange?.();
    this.dispatchEvent(new Event("statechange"));
  }
}

const port: { postMessage: () => void; onmessage: ((e: unknown) => void) | null } = {
  postMessage: () => {},
  onmessage: null,
};
const sent: { command?: { type: string; tick?: number } }[] = [];
let worker: { onmessage: ((e: unknown) => void) | null } = { onmessage: null };

beforeEach(() => {
  vi.useFakeTimers();
  Context.output = true;
  Context.calls = [];
  sent.length = 0;
  vi.stubGlobal("AudioContext", Context);
  vi.stubGlobal(
    "AudioWorkletNode",
    class {
      port = port;
      connect() {}
    },
  );
  vi.stubGlobal(
    "Worker",
    class {
      onmessage = null;
      constructor() {
        worker = this;
      }
      postMessage = (m: { command?: { type: string } }) => sent.push(m);
    },
  );
  useProject.setState({ notice: null });
  monitor.attach("p");
});

afterEach(() => {
  monitor.detach();
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const commands = () => sent.map((m) => m.command?.type).filter(Boolean);
const notice = () => JSON.stringify(useProject.getState().notice);

test("sound is asked for within the gesture, before anything is waited for", async () => {
  const played = monitor.play();
  expect(Context.calls).toEqual(["resume", "module"]);
  await played;
  expect(useMonitor.getState().playing).toBe(true);
  expect(commands()).toContain("play");
});

test("without an output Play says so after a while, and plays once there is one", async () => {
  Context.output = false;
  const played = monitor.play();
  await vi.advanceTimersByTimeAsync(15_000);
  await played;
  expect(useMonitor.getState().playing).toBe(false);
  expect(notice()).toContain("no sound output");
  expect(commands()).not.toContain("play");
  Context.output = true;
  await monitor.play();
  expect(useMonitor.getState().playing).toBe(true);
});

test("an output that comes while it is waited for plays at once", async () => {
  Context.output = false;
  const played = monitor.play();
  await vi.advanceTimersByTimeAsync(1000);
  Context.last?.set("running");
  await played;
  expect(useMonitor.getState().playing).toBe(true);
  expect(notice()).toBe("null");
});

test("an interruption stops what plays; a device that is gone is replaced at the next Play", async () => {
  await monitor.play();
  Context.last?.set("interrupted");
  expect(useMonitor.getState().playing).toBe(false);
  expect(notice()).toContain("interrupted");
  expect(commands().at(-1)).toBe("stop");
  await monitor.play();
  expect(useMonitor.getState().playing, "the same context goes on").toBe(true);
  const before = Context.last;
  before?.dispatchEvent(new Event("error"));
  expect(useMonitor.getState().playing).toBe(false);
  expect(notice()).toContain("lost");
  await monitor.play();
  expect(Context.last).not.toBe(before);
  expect(useMonitor.getState().playing).toBe(true);
});

test("sound that cannot begin is reported, and tried anew", async () => {
  const broken = vi.fn().mockRejectedValueOnce(new Error("no module"));
  vi.stubGlobal(
    "AudioContext",
    class extends Context {
      override audioWorklet = { addModule: async () => broken() };
    },
  );
  await monitor.play();
  expect(useMonitor.getState().playing).toBe(false);
  expect(notice()).toContain("could not begin");
  await monitor.play();
  expect(useMonitor.getState().playing).toBe(true);
});

test("no peak is lost between two looks at the meter", async () => {
  await monitor.play();
  for (const peak_left of [0.1, 0.9, 0.2])
    port.onmessage?.({ data: { peak_left, peak_right: 0.3, time: 0 } });
  expect(monitor.takePeaks()).toEqual([0.9, 0.3]);
  expect(monitor.takePeaks()).toEqual([0, 0]);
});

test("a project that is opened while another one's sound begins has its own", async () => {
  const first = monitor.play();
  monitor.attach("another");
  await first;
  expect(useMonitor.getState().playing).toBe(false);
  expect(monitor.node).toBeNull();
  expect(notice()).toBe("null");
});

const says = (type: string) => worker.onmessage?.({ data: { type } });
const plays = (position: number) => port.onmessage?.({ data: { position, time: 0 } });

test("what plays goes on where it was once the way to the server is open again", async () => {
  await monitor.play();
  says("open");
  plays(1234);
  sent.length = 0;
  says("lost");
  says("lost"); // it is tried again in vain
  expect(useMonitor.getState()).toMatchObject({ playing: true, link: "lost" });
  says("open");
  expect(sent.at(-1)?.command).toMatchObject({ type: "play", tick: 1234 });
  says("lost");
  monitor.stop();
  says("open");
  expect(
    commands().filter((c) => c === "play"),
    "stopped meanwhile",
  ).toHaveLength(1);
  await monitor.study({ speed: 0.5 });
  says("lost");
  sent.length = 0;
  says("open");
  expect(sent.at(-1)?.command).toMatchObject({ type: "study", study: { speed: 0.5 } });
  says("lost");
  await monitor.play(960);
  sent.length = 0;
  says("lost");
  says("open");
  expect(commands(), "the worker has kept what was asked for meanwhile").not.toContain("play");
});
