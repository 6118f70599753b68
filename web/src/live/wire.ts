// The messages between the socket worker, the worklet and the page.

import type { Schemas } from "../api/client";

/** Length of a block's header in bytes; see docs/live.md. */
export const headerBytes = 32;

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
}

/** Reads a block; null when the bytes are not one. */
export function readBlock(data: ArrayBuffer): Block | null {
  if (data.byteLength < headerBytes) return null;
  const v = new DataView(data);
  const frames = v.getUint32(0, true);
  if (data.byteLength !== headerBytes + 8 * frames) return null;
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
    left: new Float32Array(data, headerBytes, frames),
    right: new Float32Array(data, headerBytes + 4 * frames, frames),
  };
}
