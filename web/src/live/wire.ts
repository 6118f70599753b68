// The messages between the link worker, the worklet and the page.

import type { Schemas } from "../api/client";
import { headerBytes } from "../api/facts.gen";

type Message = Schemas["Message"];
type Sent<Type extends Message["type"], Fields extends keyof Message = never> = { type: Type } & Pick<
  Message,
  Fields
>;

/** What the page asks of the server: of each type of message the fields that it reads. */
export type Command =
  | Sent<"play", "tick" | "count_in">
  | Sent<"loop", "from" | "to">
  | Sent<"piece", "on">
  | Sent<"leap", "tick">
  | Sent<"click", "on" | "per">
  | Sent<"solo", "voices">
  | (Sent<"hear"> & { parts: FeelPart[] | null })
  | Sent<"bypass", "bypass">
  | Sent<"system", "system">
  | Sent<"band", "row" | "effect" | "band">
  | Sent<"stop">
  | Sent<"strike", "voice" | "velocity">
  | Sent<"source", "source">
  | Sent<"study", "study">;

export type Bypass = Schemas["Bypass"];
export type FeelPart = Schemas["FeelPart"];
export type Source = Schemas["Source"];
export type Header = Schemas["Header"];

/** A block of sound with what the server said about it. */
export interface Block extends Header {
  left: Float32Array;
  right: Float32Array;
}

/** What the worklet reports about the sound that leaves it now. */
export interface Report extends Omit<Header, "frames" | "at"> {
  played: number;
  dry: number;
  filled: number;
  /** Frames that came too late to be heard, in all. */
  late: number;
  /** How often what was made ahead was made anew, as far as that has been heard. */
  turn: number;
  /** When it was made, on the computer's clock, ms. */
  time: number;
}

/** How many bytes a block of so many frames has. */
export const blockLength = (frames: number) => headerBytes + 8 * frames;

/** Reads the blocks of a message; none when the bytes are no whole blocks. */
export function readBlocks(data: ArrayBuffer): Block[] {
  const out: Block[] = [];
  for (let from = 0; from < data.byteLength; ) {
    const block = readBlock(data, from);
    if (!block) return [];
    out.push(block);
    from += blockLength(block.frames);
  }
  return out;
}

function readBlock(data: ArrayBuffer, from: number): Block | null {
  if (data.byteLength < from + headerBytes) return null;
  const v = new DataView(data, from);
  const frames = v.getUint32(0, true);
  if (frames === 0 || data.byteLength < from + blockLength(frames)) return null;
  return {
    frames,
    version: v.getUint32(4, true),
    position: v.getFloat64(8, true),
    peak_left: v.getFloat32(16, true),
    peak_right: v.getFloat32(20, true),
    loudness: v.getFloat32(24, true),
    playing: (v.getUint32(28, true) & 1) === 1,
    studying: (v.getUint32(28, true) & 2) === 2,
    piece: (v.getUint32(28, true) & 8) === 8,
    held: (v.getUint32(28, true) & 4) === 4,
    at: Number(v.getBigUint64(32, true)),
    reach: v.getFloat32(40, true),
    left: new Float32Array(data, from + headerBytes, frames),
    right: new Float32Array(data, from + headerBytes + 4 * frames, frames),
  };
}
