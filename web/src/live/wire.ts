// The messages between the socket worker, the worklet and the page.

import type { Schemas } from "../api/client";

/** Length of a block's header in bytes; see docs/live.md. */
export const headerBytes = 48;

/** What the page asks of the server. */
export type Command =
  | { type: "play"; tick: number; count_in: number }
  | { type: "loop"; from: number; to: number }
  | { type: "piece"; on: boolean }
  | { type: "leap"; tick: number }
  | { type: "click"; on: boolean; per: number }
  | { type: "solo"; voices: string[] }
  | { type: "hear"; parts: FeelPart[] | null }
  | { type: "bypass"; bypass: Bypass | null }
  | { type: "system"; system: string }
  | { type: "band"; row: string; effect: string; band: number }
  | { type: "stop" }
  | { type: "strike"; voice: string; velocity: number }
  | { type: "source"; source: Source }
  | { type: "study"; study: Schemas["AuditionSettings"] };

/** What is bypassed: an effect of a row, its chain, or all; and what makes up for it, dB. */
export interface Bypass {
  row: string;
  effect: string;
  gain_db: number;
}

/** A part of a feel that can be heard alone. */
export type FeelPart =
  | "swing"
  | "lean"
  | "contour"
  | "drift"
  | "scatter"
  | "nudge"
  | "accent"
  | "velocity_scatter"
  | "ramp";

export type Source = "mine" | "reference" | "both";

/** A block of sound with what the server said about it. */
export interface Block {
  frames: number;
  version: number;
  position: number;
  peakLeft: number;
  peakRight: number;
  loudness: number;
  playing: boolean;
  /** A study plays; then the position is the part of its way, 0 to 1. */
  studying: boolean;
  /** The safety limiter turns down what is heard. */
  held: boolean;
  /** The arrangement plays, and the position is one of it. */
  piece: boolean;
  /** The place of its first frame since the connection opened. */
  at: number;
  /** How far ahead of what is played a change is made, ms. */
  reach: number;
  left: Float32Array;
  right: Float32Array;
}

/** What the worklet reports about the sound that leaves it now. */
export interface Report {
  played: number;
  dry: number;
  filled: number;
  version: number;
  position: number;
  peakLeft: number;
  peakRight: number;
  loudness: number;
  playing: boolean;
  studying: boolean;
  held: boolean;
  piece: boolean;
  /** How far ahead of what is played a change is made, ms. */
  reach: number;
  /** Frames that came too late to be heard, in all. */
  late: number;
  /** How often what was made ahead was made anew, as far as that has been heard. */
  turn: number;
  /** When it was made, on the computer's clock, ms. */
  time: number;
}

/** Reads the blocks of a message; none when the bytes are no whole blocks. */
export function readBlocks(data: ArrayBuffer): Block[] {
  const out: Block[] = [];
  for (let from = 0; from < data.byteLength; ) {
    const block = readBlock(data, from);
    if (!block) return [];
    out.push(block);
    from += headerBytes + 8 * block.frames;
  }
  return out;
}

function readBlock(data: ArrayBuffer, from: number): Block | null {
  if (data.byteLength < from + headerBytes) return null;
  const v = new DataView(data, from);
  const frames = v.getUint32(0, true);
  if (frames === 0 || data.byteLength < from + headerBytes + 8 * frames) return null;
  return {
    frames,
    version: v.getUint32(4, true),
    position: v.getFloat64(8, true),
    peakLeft: v.getFloat32(16, true),
    peakRight: v.getFloat32(20, true),
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
