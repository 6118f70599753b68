// The end of the sound's way: blocks in from the link worker, 128 frames out at a time.
// It reports to the worker how much has been played and to the page what leaves it now.
import { Buffer } from "./buffer";
import type { Counted } from "./counter";
import type { Block, Report } from "./wire";

declare const registerProcessor: (name: string, ctor: unknown) => void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

class Player extends AudioWorkletProcessor {
  private buffer = new Buffer();
  private now: Block | null = null;
  private dry = 0;
  private lateReported = 0; // of the buffer's late frames, reported to the worker
  private starved = false;
  private peakLeft = 0;
  private peakRight = 0;
  private worker: MessagePort | null = null;
  private sinceReport = 0;
  private reported = 0; // the version last reported
  private reportedTurn = 0;

  constructor() {
    super();
    this.port.onmessage = (e: MessageEvent) => {
      this.worker = e.ports[0] ?? null;
      if (this.worker)
        this.worker.onmessage = ({ data }) => {
          if (data.type === "reset") this.buffer.reset();
          else for (const block of data.blocks) this.buffer.take(block);
        };
    };
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0]?.[0];
    const right = outputs[0]?.[1] ?? left;
    if (!left || !right) return true;
    const begun = this.buffer.read > 0;
    // Count running dry once, and only after sound has begun.
    if (this.buffer.give(left, right) < left.length) {
      if (!this.starved && begun) this.dry++;
      this.starved = true;
    } else {
      this.starved = false;
    }
    for (const block of this.buffer.begun()) {
      this.now = block;
      this.peakLeft = Math.max(this.peakLeft, block.peak_left);
      this.peakRight = Math.max(this.peakRight, block.peak_right);
    }
    this.sinceReport += left.length;
    // A new version of the document, and other sound than was made before, are reported at once.
    const isNew =
      this.now !== null && (this.now.version !== this.reported || this.buffer.turn !== this.reportedTurn);
    if (isNew || this.sinceReport >= 512) this.report();
    else if (this.sinceReport % 256 === 0) this.played();
    return true;
  }

  private played() {
    const { read, late } = this.buffer;
    const counted: Counted = { played: read, dry: this.dry, late: late - this.lateReported };
    this.worker?.postMessage(counted);
    this.lateReported = late;
  }

  private report() {
    this.sinceReport = 0;
    this.played();
    const report: Report = {
      played: this.buffer.read,
      dry: this.dry,
      filled: this.buffer.wrote - this.buffer.read,
      version: this.now?.version ?? 0,
      position: this.now?.position ?? 0,
      peak_left: this.peakLeft,
      peak_right: this.peakRight,
      loudness: this.now?.loudness ?? -100,
      playing: this.now?.playing ?? false,
      studying: this.now?.studying ?? false,
      piece: this.now?.piece ?? false,
      held: this.now?.held ?? false,
      reach: this.now?.reach ?? 0,
      late: this.buffer.late,
      turn: this.buffer.turn,
      time: Date.now(),
    };
    this.peakLeft = 0;
    this.peakRight = 0;
    this.reported = report.version;
    this.reportedTurn = report.turn;
    this.port.postMessage(report);
  }
}

registerProcessor("player", Player);
