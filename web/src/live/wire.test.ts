import { expect, test } from "vitest";
import { headerBytes, readBlock } from "./wire";

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
  for (let i = 0; i < frames; i++) {
    v.setFloat32(headerBytes + 4 * i, i, true);
    v.setFloat32(headerBytes + 4 * (frames + i), -i, true);
  }
  return data;
}

test("a block is read", () => {
  const b = readBlock(block(4));
  expect(b).toMatchObject({
    frames: 4,
    version: 7,
    position: 960.5,
    peakLeft: 0.5,
    loudness: -18,
    playing: true,
    studying: false,
    held: true,
  });
  expect([...(b?.left ?? [])]).toEqual([0, 1, 2, 3]);
  expect([...(b?.right ?? [])]).toEqual([-0, -1, -2, -3]);
});

test("what is no block is refused", () => {
  expect(readBlock(new ArrayBuffer(5))).toBeNull();
  expect(readBlock(block(4).slice(0, -4))).toBeNull();
});
