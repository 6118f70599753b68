import { expect, test } from "vitest";
import sent from "../api/blocks.gen.json";
import { headerBytes } from "../api/facts.gen";
import { readBlocks } from "./wire";

const bytesOf = (text: string) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0));

/** The first of the blocks that the server's code wrote. */
const first = () => bytesOf(sent[0]?.bytes ?? "").buffer;

test("a block is read as the server wrote it", () => {
  for (const { header, left, right, bytes } of sent) {
    const [b] = readBlocks(bytesOf(bytes).buffer);
    const { left: l, right: r, ...read } = b ?? { left: [], right: [] };
    expect(read).toEqual(header);
    expect([...l]).toEqual(left);
    expect([...r]).toEqual(right);
  }
});

test("several blocks stand in one message", () => {
  const all = sent.flatMap(({ bytes }) => [...bytesOf(bytes)]);
  const read = readBlocks(new Uint8Array(all).buffer);
  expect(read.map((b) => b.version)).toEqual(sent.map((s) => s.header.version));
  expect([...(read[1]?.right ?? [])]).toEqual(sent[1]?.right);
});

test("what is no block is refused", () => {
  expect(readBlocks(new ArrayBuffer(5))).toEqual([]);
  expect(readBlocks(new ArrayBuffer(headerBytes))).toEqual([]);
  expect(readBlocks(first().slice(0, -4))).toEqual([]);
});
