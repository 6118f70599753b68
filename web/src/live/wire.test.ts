import { expect, test } from "vitest";
import { headerBytes, readBlocks } from "./wire";

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
