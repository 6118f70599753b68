import { expect, test } from "vitest";
import { blockFrames } from "../api/facts.gen";
import { Buffer, fade } from "./buffer";
import type { Block } from "./wire";

const frames = blockFrames;

const block = (at: number, value: number, version = 1): Block => ({
  frames,
  version,
  position: at,
  peak_left: 0,
  peak_right: 0,
  loudness: -20,
  playing: true,
  studying: false,
  held: false,
  piece: false,
  at,
  reach: 20,
  left: new Float32Array(frames).fill(value),
  right: new Float32Array(frames).fill(-value),
});

const give = (b: Buffer, n: number) => {
  const left = new Float32Array(n);
  const right = new Float32Array(n);
  const got = b.give(left, right);
  return { left: [...left.subarray(0, got)], right: [...right.subarray(0, got)] };
};

/** Takes blocks of a value from a frame up to another one. */
const fill = (b: Buffer, from: number, to: number, value: number, version = 1) => {
  for (let at = from; at < to; at += frames) b.take(block(at, value, version));
};

test("blocks come out as they came, and no more than came", () => {
  const b = new Buffer();
  fill(b, 0, 1024, 0.5);
  expect(give(b, 1000).left).toEqual(new Array(1000).fill(0.5));
  expect(give(b, 128).right).toEqual(new Array(24).fill(-0.5));
  expect(give(b, 128).left).toEqual([]);
});

test("what is made anew takes the place of what is not played yet, faded in at equal gain", () => {
  const b = new Buffer();
  fill(b, 0, 4096, 1);
  give(b, 1024);
  fill(b, 2048, 3072, 0, 2);
  const out = give(b, 3072).left;
  expect(out.slice(0, 1024), "before it nothing changes").toEqual(new Array(1024).fill(1));
  for (let i = 0; i < fade; i++) {
    expect(out[1024 + i]).toBeCloseTo(Math.cos((((i + 0.5) / fade) * Math.PI) / 2) ** 2, 6);
  }
  expect(out.slice(1024 + fade, 2048)).toEqual(new Array(1024 - fade).fill(0));
  expect(out.slice(2048), "what nothing took the place of stays").toEqual(new Array(1024).fill(1));
});

test("it counts how often it was gone back, when that is played", () => {
  const b = new Buffer();
  fill(b, 0, 2048, 1);
  give(b, 512);
  fill(b, 1024, 2048, 0, 2);
  give(b, 512);
  b.begun();
  expect(b.turn, "it has come but is not heard yet").toBe(0);
  give(b, frames);
  b.begun();
  expect(b.turn, "the first block leads over").toBe(0);
  give(b, 128);
  b.begun();
  expect(b.turn).toBe(1);
  fill(b, 2048, 3072, 0, 2);
  give(b, 1024);
  b.begun();
  expect(b.turn, "what follows is no other turn").toBe(1);
});

test("blocks after the first join without a seam", () => {
  const b = new Buffer();
  fill(b, 0, 4096, 1);
  fill(b, 1024, 4096 + 1024, 1, 2);
  const out = give(b, 5120).left;
  for (const v of out) expect(v, "nothing is heard where both are alike").toBeCloseTo(1, 6);
});

test("what comes too late begins where it is now, and is counted", () => {
  const b = new Buffer();
  fill(b, 0, 4096, 1);
  give(b, 1124);
  fill(b, 1024, 2048, 0, 2);
  expect(b.late).toBe(100);
  const out = give(b, 600).left;
  expect(out[0]).toBeCloseTo(1, 4);
  expect(out[fade]).toBe(0);
});

test("what is gone by altogether changes nothing", () => {
  const b = new Buffer();
  fill(b, 0, 2048, 1);
  give(b, 1024);
  fill(b, 0, 768, 0, 2);
  expect(b.late).toBe(768);
  expect(give(b, 1024).left).toEqual(new Array(1024).fill(1));
});

test("blocks are reported when they begin to be heard, the newest version of each", () => {
  const b = new Buffer();
  fill(b, 0, 1024, 1);
  give(b, 128);
  expect(b.begun().map((m) => m.version)).toEqual([1]);
  fill(b, 512, 1280, 0, 2);
  give(b, 1024);
  expect(b.begun().map((m) => [m.at, m.version])).toEqual([
    [256, 1],
    [512, 2],
    [768, 2],
    [1024, 2],
  ]);
});

test("a block whose beginning has been played is reported, too", () => {
  const b = new Buffer();
  fill(b, 0, 2048, 1);
  give(b, 600);
  b.begun();
  fill(b, 512, 1024, 0, 2);
  give(b, 1);
  expect(b.begun().map((m) => [m.at, m.version])).toEqual([[512, 2]]);
});

test("it goes round its ring for long, and begins anew with another connection", () => {
  const b = new Buffer();
  for (let at = 0; at < 200_000; at += frames) {
    b.take(block(at, at));
    expect(give(b, frames).left[7]).toBe(at);
  }
  b.reset();
  fill(b, 0, 512, 0.25);
  expect(give(b, 1024).left).toEqual(new Array(512).fill(0.25));
});
