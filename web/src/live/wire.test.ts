import { expect, test } from "vitest";
import { headerBytes, readBlocks, StreamReader } from "./wire";

function block(frames: number): ArrayBuffer {
  const data = new ArrayBuffer(headerBytes + 8 * frames);
  const v = new DataView(data);
  v.setUint32(0, frames, true);
  v.setUint32(4, 7, true);
  v.setFloat64(8, 960.5, true);
  v.setFloat32(16, 0.5, true);
  v.setFloat32(20, 0.25, true);
  v.setFloat32(24, -18, true);
  v.setUint32(28, 5, true);
  v.setBigUint64(32, 2n ** 40n + 256n, true);
  v.setFloat32(40, 20, true);
  for (let i = 0; i < frames; i++) {
    v.setFloat32(headerBytes + 4 * i, i, true);
    v.setFloat32(headerBytes + 4 * (frames + i), -i, true);
  }
  return data;
}

test("a block is read", () => {
  const [b] = readBlocks(block(4));
  expect(b).toMatchObject({
    frames: 4,
    version: 7,
    position: 960.5,
    peakLeft: 0.5,
    loudness: -18,
    playing: true,
    studying: false,
    held: true,
    at: 2 ** 40 + 256,
    reach: 20,
  });
  expect([...(b?.left ?? [])]).toEqual([0, 1, 2, 3]);
  expect([...(b?.right ?? [])]).toEqual([-0, -1, -2, -3]);
});

test("several blocks stand in one message", () => {
  const both = new Uint8Array(2 * (headerBytes + 32));
  both.set(new Uint8Array(block(4)));
  both.set(new Uint8Array(block(4)), headerBytes + 32);
  const read = readBlocks(both.buffer);
  expect(read.map((b) => b.version)).toEqual([7, 7]);
  expect([...(read[1]?.right ?? [])]).toEqual([-0, -1, -2, -3]);
});

test("what is no block is refused", () => {
  expect(readBlocks(new ArrayBuffer(5))).toEqual([]);
  expect(readBlocks(new ArrayBuffer(headerBytes))).toEqual([]);
  expect(readBlocks(block(4).slice(0, -4))).toEqual([]);
});

test("a stream is read however it is cut", () => {
  const text = new TextEncoder().encode(JSON.stringify({ type: "session", id: "x" }));
  const head = new Uint8Array(8);
  new DataView(head.buffer).setUint32(4, text.length, true);
  const parts = [head, text, new Uint8Array(block(4)), new Uint8Array(block(16)), head, text];
  const all = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    all.set(p, at);
    at += p.length;
  }
  for (const size of [1, 7, 48, 100, all.length]) {
    const reader = new StreamReader();
    const got = { frames: [] as number[], texts: [] as string[] };
    for (let i = 0; i < all.length; i += size) {
      const { blocks, texts } = reader.take(all.subarray(i, i + size));
      got.frames.push(...blocks.map((b) => b.frames));
      got.texts.push(...texts);
      for (const b of blocks) expect([...b.left].slice(0, 4)).toEqual([0, 1, 2, 3]);
    }
    expect(got.frames, `in pieces of ${size}`).toEqual([4, 16]);
    expect(got.texts.map((t) => JSON.parse(t).id)).toEqual(["x", "x"]);
  }
});
