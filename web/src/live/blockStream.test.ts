import { afterEach, expect, test, vi } from "vitest";
import sent from "../api/blocks.gen.json";
import { headerBytes } from "../api/facts.gen";
import { BlockStream, takePlace, Whole } from "./blockStream";
import { readBlocks } from "./wire";

const bytesOf = (text: string) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
const first = new Uint8Array(headerBytes); // a block of no frames
const all = new Uint8Array([...first, ...sent.flatMap(({ bytes }) => [...bytesOf(bytes)])]);
const versions = sent.map((s) => s.header.version);

afterEach(() => vi.unstubAllGlobals());

test("however a stream is cut into pieces, its blocks are whole", () => {
  for (const length of [1, 7, headerBytes, headerBytes + 1, all.length]) {
    const whole = new Whole();
    const got: number[] = [];
    for (let at = 0; at < all.length; at += length) {
      const blocks = whole.take(all.slice(at, at + length));
      if (blocks) got.push(...readBlocks(blocks).map((b) => b.version));
    }
    expect(got, `in pieces of ${length}`).toEqual(versions);
  }
});

/** Locks as the windows of a browser share them. */
function locks() {
  const held = new Set<string>();
  const waiting: { name: string; begin: () => void }[] = [];
  const next = () => {
    const i = waiting.findIndex((w) => !held.has(w.name));
    if (i >= 0) waiting.splice(i, 1)[0]?.begin();
  };
  const request = (name: string, { signal }: { signal: AbortSignal }, use: () => Promise<void> | undefined) =>
    new Promise<void>((done, fail) => {
      const begin = async () => {
        held.add(name);
        await use();
        held.delete(name);
        done();
        next();
      };
      const wait = { name, begin };
      signal.addEventListener("abort", () => {
        if (!waiting.includes(wait)) return;
        waiting.splice(waiting.indexOf(wait), 1);
        fail(signal.reason);
      });
      if (signal.aborted) fail(signal.reason);
      else if (held.has(name)) waiting.push(wait);
      else void begin();
    });
  return { request } as unknown as LockManager;
}

test("some windows have a stream; one more has one as soon as one of them gives its place back", async () => {
  const shared = locks();
  const never = new AbortController().signal;
  const places = [
    await takePlace(shared, never),
    await takePlace(shared, never),
    await takePlace(shared, never),
  ];
  const gone = new AbortController();
  const fourth = vi.fn();
  const fifth = vi.fn();
  void takePlace(shared, gone.signal).then(fourth);
  void takePlace(shared, never).then(fifth);
  await new Promise((done) => setTimeout(done));
  expect(fourth).not.toHaveBeenCalled();
  gone.abort(); // its window is closed
  places[1]?.();
  await vi.waitFor(() => expect(fifth).toHaveBeenCalledOnce());
  expect(fourth).not.toHaveBeenCalled();
  expect(await takePlace(undefined, never), "a browser without locks").toBeNull();
});

/** A server that answers with a stream that the test writes to. */
function server(ok = true) {
  let to: ReadableStreamDefaultController<Uint8Array> | undefined;
  const start = (c: ReadableStreamDefaultController<Uint8Array>) => {
    to = c;
  };
  const body = new ReadableStream<Uint8Array>({ start });
  let signal: AbortSignal | undefined;
  vi.stubGlobal("fetch", async (_: string, init: { signal: AbortSignal }) => {
    signal = init.signal;
    signal.addEventListener("abort", () => to?.error(new Error("aborted")));
    return { ok, body };
  });
  return { write: (b: Uint8Array) => to?.enqueue(b), end: () => to?.close() };
}

test("what comes is held until all of the socket is there; that it ends is said", async () => {
  const s = server();
  const played: ArrayBuffer[] = [];
  const lost = vi.fn();
  const stream = await BlockStream.open("/live/k", (b) => played.push(b), lost);
  s.write(all.slice(0, headerBytes));
  s.write(all.slice(headerBytes));
  await new Promise((done) => setTimeout(done));
  expect(played).toEqual([]);
  stream?.begin();
  expect(played.flatMap((b) => readBlocks(b)).map((b) => b.version)).toEqual(versions);
  s.write(bytesOf(sent[0]?.bytes ?? ""));
  await vi.waitFor(() => expect(played).toHaveLength(2));
  expect(lost).not.toHaveBeenCalled();
  s.end();
  await vi.waitFor(() => expect(lost).toHaveBeenCalledOnce());
});

test("one that is closed is not lost, and where none opens there is none", async () => {
  server();
  const lost = vi.fn();
  const stream = await BlockStream.open("/live/k", () => {}, lost);
  stream?.close();
  await new Promise((done) => setTimeout(done));
  expect(lost).not.toHaveBeenCalled();
  server(false);
  expect(await BlockStream.open("/live/k", () => {}, lost)).toBeNull();
  vi.stubGlobal("fetch", () => Promise.reject(new Error("no network")));
  expect(await BlockStream.open("/live/k", () => {}, lost)).toBeNull();
});
